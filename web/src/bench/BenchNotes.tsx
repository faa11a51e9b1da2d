import { useEffect } from "react";
import { useStore } from "zustand";

import { Notice } from "../ui/Notice";
import { useBench } from "./BenchContext";

const SAID_MS = 4_000;

/** What is said of what was done, and of what is being pointed at. */
export function BenchNotes() {
  const { state, moves, lenses } = useBench();
  const { failure } = useStore(moves.state);
  const { said, say } = state;
  useEffect(() => {
    if (said === undefined) return undefined;
    const timer = setTimeout(() => say(undefined), SAID_MS);
    return () => clearTimeout(timer);
  }, [said, say]);
  return (
    <>
      {lenses.pointing !== undefined && (
        <Notice action={{ label: "Done", run: () => lenses.point(undefined) }}>
          Point at lines or cards of the map: the lens listens there.
        </Notice>
      )}
      {failure !== undefined ? (
        <Notice warn onClose={moves.dismiss}>
          {failure}
        </Notice>
      ) : (
        said !== undefined && <Notice>{said}</Notice>
      )}
    </>
  );
}
