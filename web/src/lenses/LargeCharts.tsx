import type { ReactNode } from "react";

import type { Chart } from "../api/client";
import { ChartView } from "./ChartView";
import { Legends } from "./Legends";
import { lensRule } from "../api/rules";

interface Props {
  charts: Chart[];
  /** What is heard: the tap by its name, or the caption of a plate. */
  title: string;
  sentence: string;
  /** What stands at the end of the line above them. */
  children?: ReactNode;
}

const ZOOM = 1.9;
const ZOOM_OF_SEVERAL = 1.4;

/** Pictures in large type, with what they say; they fill the room that they have. */
export function LargeCharts({ charts, title, sentence, children }: Props) {
  const first = charts[0];
  const zoom = charts.length > 1 ? ZOOM_OF_SEVERAL : ZOOM;
  return (
    <div className="flex h-full flex-col gap-3 px-8 pt-4">
      <div className="flex items-baseline gap-8 text-read">
        <h2 className="font-semibold whitespace-nowrap">
          {first && lensRule(first.kind).title} <span className="font-normal">{title}</span>
        </h2>
        {first && charts.length === 1 && <Legends chart={first} zoom={1.75} />}
        <span className="flex-1" />
        {children}
      </div>
      <div className="flex min-h-0 flex-1 gap-4">
        {charts.map((chart, place) => (
          <div key={place} className="flex min-w-0 flex-1 flex-col">
            {chart.title && <div className="text-center font-semibold">{chart.title}</div>}
            <div className="relative min-h-0 flex-1">
              <ChartView chart={chart} name={chart.title || lensRule(chart.kind).title} zoom={zoom} />
            </div>
          </div>
        ))}
      </div>
      <p className="max-h-[5.4em] shrink-0 overflow-y-auto pb-1 font-read text-read leading-[1.3] italic">
        {sentence}
      </p>
    </div>
  );
}
