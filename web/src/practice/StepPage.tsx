import type { ReactNode } from "react";

interface Props {
  thread: ReactNode;
  text: ReactNode;
  foot: ReactNode;
  bench: ReactNode;
}

/** A step that is followed: the thread of steps and the text on the left, the bench on the right. */
export function StepPage({ thread, text, foot, bench }: Props) {
  return (
    <main className="grid min-h-0 flex-1 grid-cols-[356px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto]">
      <div className="flex min-h-0 border-r border-rule">
        {thread}
        <div className="flex min-h-0 min-w-0 flex-1 flex-col">
          {text}
          {foot}
        </div>
      </div>
      {bench}
    </main>
  );
}
