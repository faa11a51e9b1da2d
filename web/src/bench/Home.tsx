import { sectionsAround } from "../map/sections";
import { useBench } from "./BenchContext";

/** The sections that a module, or another section, is in. */
export function Home({ module }: { module: string }) {
  const { patch, state } = useBench();
  const homes = sectionsAround(patch, module);
  if (homes.length === 0) return null;
  return (
    <p className="text-soft">
      In the section{" "}
      {homes.map((home, place) => (
        <span key={home.id}>
          {place > 0 && ", in "}
          <button type="button" className="lead font-medium" onClick={() => state.select([home.id])}>
            {home.label}
          </button>
        </span>
      ))}
    </p>
  );
}
