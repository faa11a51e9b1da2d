import type { Detour, StepContent } from "../api/client";
import type { LookAt } from "../bench/store";
import type { OnLink } from "./Prose";

/** Goes where a link in a step's text leads: to a picture on the page, a detour on the lenses, a module or a mark. */
export const followLink =
  (
    content: StepContent,
    showDetour: (detour: Detour | undefined) => void,
    lookAt: (place: LookAt) => void,
  ): OnLink =>
  (kind, id) => {
    if (kind === "module") lookAt({ kind: "module", module: id });
    const marked = kind === "mark" && content.marks.find((one) => one.number === Number(id));
    if (marked) lookAt({ ...marked.at }); // anew each time, so that it is gone to each time
    if (kind === "detour") showDetour(content.detours.find((one) => one.id === id));
    if (kind !== "plate") return;
    const plate = document.querySelector<HTMLElement>(`[data-plate="${CSS.escape(id)}"]`);
    plate?.scrollIntoView({ block: "center" });
    plate?.focus({ preventScroll: true });
  };
