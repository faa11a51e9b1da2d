import { Dialog, DialogPanel } from "@headlessui/react";

import type { Chart } from "../api/client";
import { useIsDark } from "../ui/ground";
import { LargeCharts } from "./LargeCharts";

interface Props {
  charts: Chart[];
  /** What is heard: the tap by its name, or the caption of a plate. */
  title: string;
  sentence: string;
  onClose: () => void;
}

/** Lets the page have the whole screen, or gives it back. */
const fillScreen = () =>
  document.fullscreenElement
    ? document.exitFullscreen()
    : document.documentElement.requestFullscreen().catch(() => undefined);

/** Pictures over the whole page in large type, for those in the back row. */
export function Projector({ charts, title, sentence, onClose }: Props) {
  const dark = useIsDark();
  const close = () => {
    if (document.fullscreenElement) void document.exitFullscreen();
    onClose();
  };
  return (
    <Dialog open onClose={close} aria-label={title} className="relative z-50" data-projector>
      <DialogPanel
        data-ground={dark ? "dark" : "light"}
        className="projected fixed inset-0 bg-paper pb-2 text-ink"
      >
        <LargeCharts charts={charts} title={title} sentence={sentence}>
          <button type="button" className="button" onClick={() => void fillScreen()}>
            Whole screen
          </button>
          <button type="button" className="button" onClick={close}>
            Close
          </button>
        </LargeCharts>
      </DialogPanel>
    </Dialog>
  );
}
