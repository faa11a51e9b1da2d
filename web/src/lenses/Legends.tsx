import type { Chart, Trace } from "../api/client";
import { dashOf } from "./draw";

const TEXT = { this: "text-ink", compared: "text-compared-text", theory: "text-ink" };

const MANY = 3;
const LONG = 18; // characters

/** The lines of a chart that have names of their own. */
function legendsOf(chart: Chart): Trace[] {
  const traces = chart.panels.filter((panel) => panel.share > 0.5).flatMap((panel) => panel.traces);
  return [...new Map(traces.map((one) => [one.legend, one])).values()];
}

/** Whether there are more names than have room above a lens. */
export function hasManyLegends(chart: Chart): boolean {
  const all = legendsOf(chart);
  const own = all.filter((one) => one.role === "this").map((one) => one.legend);
  return all.length >= MANY || (own.length > 1 && own.join("").length > LONG);
}

interface Props {
  chart: Chart;
  zoom?: number;
  /** Leaves out what stands behind, where others need the room: at the bench it is named above all lenses. */
  brief?: boolean;
}

/** Which line is which, where a chart has several. */
export function Legends({ chart, zoom = 1, brief = false }: Props) {
  const all = legendsOf(chart);
  if (all.length < 2) return null;
  const alone = all.filter((one) => one.role === "this").length === 1;
  const named = alone ? all.filter((one) => one.role !== "this") : all;
  const shown = brief && named.length > 1 ? named.filter((one) => one.role !== "compared") : named;
  return (
    <span className="flex min-w-0 shrink gap-x-2.5 overflow-hidden" style={{ fontSize: 13 * zoom }}>
      {shown.map((one) => (
        <span key={one.legend} className={`truncate ${TEXT[one.role]}`} title={one.legend}>
          <Sample trace={one} /> {one.legend}
        </span>
      ))}
    </span>
  );
}

function Sample({ trace }: { trace: Trace }) {
  return (
    <svg width="18" height="6" className="inline align-middle" aria-hidden="true">
      <line
        x1="0"
        x2="18"
        y1="3"
        y2="3"
        stroke={`var(--color-${trace.role === "theory" ? "ink" : trace.role})`}
        strokeWidth="2"
        strokeDasharray={dashOf(trace).join(" ")}
      />
    </svg>
  );
}
