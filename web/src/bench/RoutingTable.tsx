import {
  createColumnHelper,
  flexRender,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  type HeaderGroup,
  type SortingState,
  useReactTable,
} from "@tanstack/react-table";
import { useMemo, useState } from "react";

import type { Connection, Patch } from "../api/client";
import { type Catalogue, endsOf, inputOf, lineKey, portTitle, split } from "../api/patch";
import { useBench } from "./BenchContext";
import { DepthEntry, ScaleChoice } from "./LineControls";

interface Row {
  connection: Connection;
  from: string;
  to: string;
  depth: number;
  scale: string;
}

const column = createColumnHelper<Row>();
const COLUMNS = [
  column.accessor("from", { header: "From" }),
  column.accessor("to", { header: "To" }),
  column.accessor("depth", { header: "Depth" }),
  column.accessor("scale", { header: "Scaled by" }),
  column.accessor((row) => (row.connection.off ? "off" : "on"), { id: "on", header: "On" }),
];

const WIDTHS = ["23%", "23%", "20%", "18%", "6%", "10%"];

/** Every connection as a row: sorted by any column, filtered by any word, edited in its place. */
export function RoutingTable() {
  const { patch, catalogue, state } = useBench();
  const [sorting, setSorting] = useState<SortingState>([]);
  const [filter, setFilter] = useState("");
  const data = useMemo(() => rowsOf(patch, catalogue), [patch, catalogue]);
  // eslint-disable-next-line react-hooks/incompatible-library -- the compiler leaves this component as it is
  const table = useReactTable({
    data,
    columns: COLUMNS,
    state: { sorting, globalFilter: filter },
    onSortingChange: setSorting,
    onGlobalFilterChange: setFilter,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getRowId: (row) => lineKey(row.connection),
  });
  const key = state.line && lineKey(state.line);
  if (data.length === 0)
    return (
      <p className="m-auto font-read text-soft italic">
        Nothing is connected yet. Press C on a card to connect it.
      </p>
    );
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <input
        aria-label="Show only connections with"
        placeholder="Show only… a module, an input"
        className="w-72 rounded border border-rule bg-leaf px-2"
        value={filter}
        onChange={(event) => setFilter(event.target.value)}
      />
      <div className="min-h-0 flex-1 overflow-y-auto">
        <table className="w-full table-fixed border-collapse">
          <colgroup>
            {WIDTHS.map((width, place) => (
              <col key={place} style={{ width }} />
            ))}
          </colgroup>
          <thead className="sticky top-0 bg-paper text-left">
            {table.getHeaderGroups().map((group) => (
              <Head key={group.id} group={group} />
            ))}
          </thead>
          <tbody>
            {table.getRowModel().rows.map(({ id, original }) => (
              <Line key={id} id={id} row={original} chosen={id === key} />
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}

function Head({ group }: { group: HeaderGroup<Row> }) {
  return (
    <tr>
      {group.headers.map((header) => (
        <th
          key={header.id}
          scope="col"
          aria-sort={sortOf(header.column.getIsSorted())}
          className={`font-semibold ${header.id === "depth" ? "pl-12" : ""}`}
        >
          <button type="button" className="hover:text-this" onClick={header.column.getToggleSortingHandler()}>
            {flexRender(header.column.columnDef.header, header.getContext())}
            {{ asc: " ↑", desc: " ↓" }[header.column.getIsSorted() as string] ?? ""}
          </button>
        </th>
      ))}
      <th scope="col">
        <span className="block pr-2 text-right font-normal text-soft">remove</span>
      </th>
    </tr>
  );
}

function Line({ id, row, chosen }: { id: string; row: Row; chosen: boolean }) {
  const { state, edit } = useBench();
  const { connection, from, to } = row;
  const line = endsOf(connection);
  return (
    <tr
      data-row={id}
      aria-selected={chosen}
      className={`border-t border-rule ${chosen ? "bg-this-wash" : ""} ${connection.off ? "text-soft" : ""}`}
    >
      <td>
        <button
          type="button"
          className="w-full truncate text-left leading-snug font-medium hover:text-this"
          onClick={() => state.selectLine(line)}
        >
          {from}
        </button>
      </td>
      <td className="truncate">{to}</td>
      <td className="[&>span]:justify-start">
        <DepthEntry connection={connection} />
      </td>
      <td>
        <ScaleChoice connection={connection} />
      </td>
      <td>
        <input
          type="checkbox"
          aria-label={`${from} to ${to} is on`}
          className="accent-ink"
          checked={!connection.off}
          disabled={!edit}
          onChange={() => edit?.([{ kind: "line", line, off: !connection.off }])}
        />
      </td>
      <td className="text-right">
        {edit && (
          <button
            type="button"
            aria-label={`Remove ${from} to ${to}`}
            title="Remove"
            className="act-away px-2"
            onClick={() => edit([{ kind: "disconnect", line }])}
          >
            ×
          </button>
        )}
      </td>
    </tr>
  );
}

const sortOf = (sorted: false | "asc" | "desc") =>
  sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : "none";

function rowsOf(patch: Patch, catalogue: Catalogue): Row[] {
  return patch.connections.map((connection) => ({
    connection,
    from: portTitle(patch, connection.from, catalogue),
    to: `${portTitle(patch, `${split(connection.to)[0]}.out`, catalogue)}: ${inputOf(patch, connection.to, catalogue)?.words ?? ""}`,
    depth: connection.depth,
    scale: connection.scaled_by ? portTitle(patch, connection.scaled_by, catalogue) : "",
  }));
}
