import type { Chart } from "../api/client";

/** The harmonic table: every partial with its frequency, note and level. */
export function PartialTable({ table }: { table: NonNullable<Chart["table"]> }) {
  if (table.rows.length === 0)
    return <p className="p-4 font-read text-soft italic">No partial stands out.</p>;
  return (
    <div className="absolute inset-0 overflow-y-auto" tabIndex={0} aria-label="Table of the partials">
      <table className="w-full text-right text-note">
        <thead className="sticky top-0 bg-leaf">
          <tr>
            {table.columns.map((column) => (
              <th key={column} className="border-b border-rule px-3 py-0.5 font-medium text-soft">
                {column}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, place) => (
            <tr key={place} className="border-b border-rule/60">
              {row.map((cell, column) => (
                <td key={column} className={`px-3 py-px ${column === 4 ? "text-compared-text" : ""}`}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
