import type { ReactNode } from "react";

import { Fold } from "../ui/Fold";
import { Guarded } from "../ui/Guarded";
import { type Pane, useRoom } from "../ui/room";

interface Props {
  /** What the step is called, for those who do not see the text. */
  title: string;
  thread: ReactNode;
  text: ReactNode;
  bench: ReactNode;
}

const PANES: [Pane, string][] = [
  ["text", "Text"],
  ["map", "Map"],
  ["lens", "Lenses"],
  ["rulers", "Rulers"],
];

/** A step: the thread of steps and the text on the left, the bench beside them; on a small screen one at a time. */
export function LessonPage({ title, thread, text, bench }: Props) {
  const { text: open, pane, put } = useRoom();
  const columns = open
    ? "grid-cols-[clamp(316px,27.8vw,356px)_minmax(0,1fr)]"
    : "grid-cols-[auto_minmax(0,1fr)]";
  return (
    <main
      className={`sheet grid min-h-0 flex-1 grid-rows-[minmax(0,1fr)_auto] ${columns} narrow:flex narrow:flex-col`}
    >
      {(!open || pane !== "text") && (
        <h1 className={open ? "hidden narrow:sr-only narrow:block" : "sr-only"}>{title}</h1>
      )}
      <div
        role="tablist"
        aria-label="Parts of the step"
        className="off-paper hidden shrink-0 border-b border-rule narrow:flex"
      >
        {PANES.map(([one, word]) => (
          <button
            key={one}
            type="button"
            role="tab"
            aria-selected={one === pane}
            className={`min-h-11 flex-1 border-b-2 ${one === pane ? "border-ink font-semibold" : "border-transparent text-soft"}`}
            onClick={() => put({ pane: one })}
          >
            {word}
          </button>
        ))}
      </div>
      <div
        className={`sheet flex min-h-0 border-r border-rule narrow:flex-1 ${pane === "text" ? "" : "narrow:hidden"}`}
      >
        <div className="off-paper flex min-h-0 flex-col">
          <div className="flex min-h-0 flex-1">
            <Guarded what="The list of steps">{thread}</Guarded>
          </div>
          <Fold
            what="the text"
            open={open}
            side="left"
            keys="Shift+U"
            className="m-3 shrink-0 self-center"
            onFold={() => put({ text: !open })}
          />
        </div>
        <div className={`sheet flex min-h-0 min-w-0 flex-1 flex-col ${open ? "" : "hidden narrow:flex"}`}>
          <Guarded what="The text">{text}</Guarded>
        </div>
      </div>
      <Guarded what="The bench">{bench}</Guarded>
    </main>
  );
}
