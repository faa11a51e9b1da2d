import type { Detour, StepContent } from "../api/client";
import type { LookAt } from "../bench/store";
import type { OnLink } from "./Prose";

/** Goes where a link in a step's text leads: to a picture on the page, a detour on the lenses, a module on the map. */
export const followLink =
  (
    content: StepContent,
    showDetour: (detour: Detour | undefined) => void,
    lookAt: (module: LookAt) => void,
  ): OnLink =>
  (kind, id) => {
    if (kind === "module") lookAt({ module: id });
    if (kind === "detour") showDetour(content.detours.find((one) => one.id === id));
    if (kind !== "plate") return;
    const plate = document.querySelector<HTMLElement>(`[data-plate="${CSS.escape(id)}"]`);
    plate?.scrollIntoView({ block: "center" });
    plate?.focus({ preventScroll: true });
  };
