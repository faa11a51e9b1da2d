import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";

import type { Chart } from "../api/client";
import { ChartView } from "./ChartView";
import { Legends } from "./Legends";
import { lensRule } from "./views";

interface Props {
  charts: Chart[];
  /** What is heard: the tap by its name, or the caption of a plate. */
  title: string;
  sentence: string;
  onClose: () => void;
}

const ZOOM = 1.9;

/** Lets the page have the whole screen, or gives it back. */
const fillScreen = () =>
  document.fullscreenElement
    ? document.exitFullscreen()
    : document.documentElement.requestFullscreen().catch(() => undefined);

/** Pictures over the whole page in large type, for those in the back row. */
export function Projector({ charts, title, sentence, onClose }: Props) {
  const first = charts[0];
  const close = () => {
    if (document.fullscreenElement) void document.exitFullscreen();
    onClose();
  };
  const zoom = charts.length > 1 ? 1.4 : ZOOM;
  return (
    <Dialog open onClose={close} className="relative z-50" data-projector>
      <DialogPanel className="fixed inset-0 flex flex-col gap-3 bg-leaf px-8 py-5">
        <div className="flex items-baseline gap-8 text-[24px]">
          <DialogTitle className="font-semibold whitespace-nowrap">
            {first && lensRule(first.kind).title} <span className="font-normal">{title}</span>
          </DialogTitle>
          {first && charts.length === 1 && <Legends chart={first} zoom={1.6} />}
          <span className="flex-1" />
          <button type="button" className="button self-center" onClick={() => void fillScreen()}>
            Whole screen
          </button>
          <button type="button" className="button self-center" onClick={close}>
            Close
          </button>
        </div>
        <div className="flex min-h-0 flex-1 gap-4">
          {charts.map((chart, place) => (
            <div key={place} className="flex min-w-0 flex-1 flex-col">
              {chart.title && <div className="text-center text-[22px] font-semibold">{chart.title}</div>}
              <div className="relative min-h-0 flex-1">
                <ChartView chart={chart} name={chart.title || lensRule(chart.kind).title} zoom={zoom} />
              </div>
            </div>
          ))}
        </div>
        <p className="max-h-[5.4em] shrink-0 overflow-y-auto pb-1 font-read text-[27px] leading-[1.3] italic">
          {sentence}
        </p>
      </DialogPanel>
    </Dialog>
  );
}
