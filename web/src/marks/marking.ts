import { createContext } from "react";

import type { StepMark } from "../api/client";

/** The marks of the step that is shown; where it is written, others can be kept in it. */
export interface Marking {
  marks: StepMark[] | undefined;
  onMarks: ((marks: StepMark[]) => void) | undefined;
}

export const MarkingContext = createContext<Marking | undefined>(undefined);
