import { createContext, type ReactNode, useContext } from "react";

import type {
  Behind,
  Edit,
  Finding,
  Instruction,
  LensWish,
  Moment,
  Patch,
  Phrase,
  Plate,
  Render,
  StepLenses,
  StepMark,
} from "../api/client";
import type { Catalogue } from "../api/patch";
import type { Lenses } from "../lenses/store";
import type { Live } from "../live/live";
import type { Against, Others, Counterpart } from "../lenses/views";
import type { MapHandle } from "../map/drawing";
import type { Command } from "./commands";
import type { Played } from "./history";
import type { Moves } from "./moves";
import type { BenchState, LookAt } from "./store";

/** What a bench is given. */
export interface BenchProps {
  /** A step, or a detour of one. */
  stepId: string;
  patch: Patch;
  phrase: Phrase;
  /** The step before, if there is one, and the last step, if that is another. */
  before: Counterpart | undefined;
  target: Counterpart | undefined;
  instructions: Instruction[];
  catalogue: Catalogue;
  /** What all lenses look at as the step has it; none is the note that says most. */
  moment: Moment | null;
  /** The lenses that the step opens with, if it has its own. */
  ownLenses: StepLenses | null;
  /** Keeps others in the step. */
  onLenses?: (lenses: StepLenses) => void;
  /** Keeps another in the step. */
  onMoment?: (moment: Moment | null) => void;
  /** Own sounds that the lesson plays, as samplers are set to them. */
  soundsHere?: string[];
  /** Whether it goes on where the bench before it was left. */
  goesOn?: boolean;
  /** Whose bench it is, where it is somebody's own: “Mine”, or a learner's name. */
  whose?: string;
  /** Why others must not see it, where its owner has not agreed. */
  unshown?: string | undefined;
  /** What stands beside the bench, for the projector’s view. */
  told?: Told;
  /** The marks of the step; where it is written, others can be kept in it. */
  marks?: StepMark[];
  onMarks?: (marks: StepMark[]) => void;
  /** What the text points to. */
  lookAt?: LookAt | undefined;
  /** Without it nothing can be changed. */
  onChange?: (played: Played, before: Played) => void;
  /** Told of every move that is still being worked out. */
  onWork?: (move: Promise<unknown>) => void;
  /** What can be done with the phrase beyond this patch. */
  phraseActions?: ReactNode;
  /** Keeps a picture in the step. */
  onPlate?: (plate: Omit<Plate, "id">) => void;
}

/** What the lenses look at, and what stands behind them. */
export interface Seen {
  /** The tap that is followed where a lens has none of its own. */
  followed: string | undefined;
  views: (LensWish | undefined)[];
  /** What could stand behind, what does, and as what. */
  others: Others;
  inner: string | undefined;
  against: Against;
  behind: Behind | undefined;
  scene: Counterpart | undefined;
  moment: Moment | null;
}

/** A render with how it comes along. */
export interface Rendered {
  data: Render | undefined;
  error: Error | null;
  /** Whether it is still that of an earlier patch. */
  behind: boolean;
  /** How much of one that takes long is done, 0 to 1. */
  part: number | undefined;
  retry: () => void;
  stop: () => void;
}

/** What a step says, and which it is of how many. */
export interface Told {
  number: number;
  count: number;
  text: ReactNode;
}

/** What plays the phrase, while it is there. */
export class HeldSound {
  toggle: (() => void) | undefined;

  hold = (toggle: (() => void) | undefined): void => {
    this.toggle = toggle;
  };
}

/** The map, while it is there. */
export class HeldMap {
  handle: MapHandle | null = null;

  hold = (handle: MapHandle | null): void => {
    this.handle = handle;
  };
}

/** How far one can go back and forth. */
export interface Past {
  canUndo: boolean;
  canRedo: boolean;
  /** How many changes of this session can be taken back. */
  steps: number;
}

/** What all parts of a bench stand on. */
export interface BenchView extends Omit<
  BenchProps,
  "onChange" | "onWork" | "lookAt" | "goesOn" | "instructions"
> {
  /** Whether anything can be changed here. */
  writing: boolean;
  state: BenchState;
  moves: Moves;
  past: Past;
  lenses: Lenses;
  map: HeldMap;
  sound: HeldSound;
  /** The module or section that is shown: the selected one, or what the step is about. */
  subject: string | undefined;
  /** All selected cards; the one that is shown is the first. */
  chosen: string[];
  seen: Seen;
  now: Rendered;
  /** The render of what it can be compared with by ear, and what that is. */
  earlier: Render | undefined;
  compared: Counterpart | undefined;
  /** Whether a move or a render is still being worked out. */
  late: boolean;
  findings: Finding[] | undefined;
  /** Makes moves and selects what they were about. */
  act: (edits: Edit[]) => void;
  /** Makes moves, where anything can be changed. */
  edit: ((edits: Edit[]) => void) | undefined;
  commands: Command[];
  /** The bench as an instrument. */
  live: Live;
}

export const BenchContext = createContext<BenchView | undefined>(undefined);

export function useBench(): BenchView {
  const view = useContext(BenchContext);
  if (!view) throw new Error("This is no part of a bench.");
  return view;
}
