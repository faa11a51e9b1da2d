/** What the lenses are set to at the bench, and what they ask the server for. */

import type { Behind, LensWish, Patch, Phrase } from "../api/client";
import { type Catalogue, mainOutput, outputModule, outputOf, split } from "../api/patch";
import { type LensKind, lensRule } from "../api/rules";

type View<K extends LensKind> = Extract<LensWish, { kind: K }>;
type Settings = { [K in LensKind]?: globalThis.Partial<View<K>> };

/** A place for a lens: which one stands there, what it listens to, and how each kind is set. */
export interface Slot {
  kind: LensKind;
  /** None: it follows what is selected. */
  taps: string[];
  settings: Settings;
  table: boolean;
}

/** What stands behind the lenses; left to itself, it is what tells most. */
export type Against =
  | "fitting"
  | "before"
  | "input"
  | "target"
  | "detour"
  | "recording"
  | "frozen"
  | "company"
  | "together"
  | "nothing";

export const AGAINST: Record<Against, string> = {
  fitting: "what tells most",
  before: "the step before",
  input: "what goes in",
  target: "the last step",
  detour: "a detour",
  recording: "a recording",
  frozen: "the frozen state",
  company: "the company",
  together: "all together",
  nothing: "nothing",
};

/** What a step is compared with: another patch that plays its phrase. */
export interface Counterpart {
  patch: Patch;
  phrase: Phrase;
  /** What it is called, where it has a name of its own. */
  name?: string;
}

export const newSlot = (kind: LensKind): Slot => ({ kind, taps: [], settings: {}, table: false });

const hasTap = (patch: Patch, tap: string) => patch.modules.some((one) => one.id === split(tap)[0]);
const moduleOf = (patch: Patch, tap: string) => patch.modules.find((one) => one.id === split(tap)[0]);

/** The view to ask for; nothing where there is nothing to listen to. */
export function viewOf(
  slot: Slot,
  followed: string | undefined,
  patch: Patch,
  catalogue: Catalogue,
): LensWish | undefined {
  const rule = lensRule(slot.kind);
  const chosen = slot.taps.filter((tap) => hasTap(patch, tap)).slice(0, rule.most_taps);
  const following = followedBy(slot.kind, followed, patch, catalogue);
  const taps = chosen.length > 0 ? chosen : following === undefined ? [] : [following];
  if (taps[0] === undefined) return undefined;
  const seenOver = catalogue.get(moduleOf(patch, taps[0])?.type ?? "")?.seen_over;
  const fitting = seenOver === "cycles" ? {} : rule.over_phrase;
  // the parts are those of one kind, which the type of a slot cannot say
  return { ...rule.at_first, ...fitting, ...slot.settings[slot.kind], taps } as LensWish;
}

/** What steers is seen over time; partials are those of what is heard. */
function followedBy(kind: LensKind, followed: string | undefined, patch: Patch, catalogue: Catalogue) {
  if (followed === undefined || !lensRule(kind).heard) return followed;
  if (outputOf(patch, followed, catalogue)?.kind === "audio") return followed;
  const output = outputModule(patch, catalogue);
  return (output && mainOutput(output, catalogue)) ?? followed;
}

/** The tap that the lenses follow: the line that is selected, or the main output of the selected module. */
export function followedTap(
  patch: Patch,
  catalogue: Catalogue,
  selected: string | undefined,
  line: string | undefined,
): string | undefined {
  if (line !== undefined && hasTap(patch, line)) return line;
  const module =
    patch.modules.find((one) => one.id === selected) ?? outputModule(patch, catalogue) ?? patch.modules[0];
  return module && mainOutput(module, catalogue);
}

/** The input through which the sound enters the module that is followed. */
export function innerTap(
  followed: string | undefined,
  patch: Patch,
  catalogue: Catalogue,
): string | undefined {
  if (followed === undefined || outputOf(patch, followed, catalogue)?.kind !== "audio") return undefined;
  const type = catalogue.get(moduleOf(patch, followed)?.type ?? "");
  const ways = type?.inputs.filter((input) => input.goes_through) ?? [];
  return ways.length === 1 && ways[0] ? `${split(followed)[0]}.${ways[0].name}` : undefined;
}

/** A recording that stands behind the lenses, and what it is called. */
export interface Heard {
  recording: string;
  legend: string;
  /** When the phrase begins in it. */
  begins_s: number;
}

/** The other patches that a step can be compared with. */
export interface Others {
  before: Counterpart | undefined;
  target: Counterpart | undefined;
  detour: Counterpart | undefined;
  recording: Heard | undefined;
  frozen: Counterpart | undefined;
  /** Whether others sound together with the phrase. */
  company: boolean;
}

/** What can stand behind the lenses now. */
export function choicesOf(others: Others, inner: string | undefined): Against[] {
  return [
    "fitting",
    ...(others.before ? ["before" as const] : []),
    ...(inner ? ["input" as const] : []),
    ...(others.target ? ["target" as const] : []),
    ...(others.detour ? ["detour" as const] : []),
    ...(others.recording ? ["recording" as const] : []),
    ...(others.frozen ? ["frozen" as const] : []),
    ...(others.company ? (["company", "together"] as const) : []),
    "nothing",
  ];
}

/** What stands behind the lenses. A module that is new in this step has no before: then it is what goes into it. */
export function behindOf(
  against: Against,
  others: Others,
  inner: string | undefined,
  followed: string | undefined,
): { against: Against; behind: Behind | undefined; scene: Counterpart | undefined } {
  const { before } = others;
  const isNew = before !== undefined && followed !== undefined && !hasTap(before.patch, followed);
  const fitting = isNew && inner ? "input" : before ? "before" : "nothing";
  const meant = against === "fitting" ? fitting : against;
  if (meant === "input" && inner)
    return { against: meant, behind: { legend: AGAINST.input, tap: inner }, scene: undefined };
  if (others.company && (meant === "company" || meant === "together"))
    return {
      against: meant,
      behind: { legend: AGAINST[meant], company: meant === "company" ? "others" : "together" },
      scene: undefined,
    };
  if (meant === "recording" && others.recording)
    return { against: meant, behind: others.recording, scene: undefined };
  const scene =
    meant === "before" || meant === "target" || meant === "detour" || meant === "frozen"
      ? others[meant]
      : undefined;
  if (!scene) return { against: "nothing", behind: undefined, scene };
  const legend = scene.name ?? AGAINST[meant];
  return { against: meant, behind: { legend, patch: scene.patch, phrase: scene.phrase }, scene };
}
