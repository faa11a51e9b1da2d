import type { ReactNode } from "react";

import { LessonPage } from "../lesson/LessonPage";

interface Props {
  title: string;
  thread: ReactNode;
  text: ReactNode;
  foot: ReactNode;
  bench: ReactNode;
}

/** A step that is followed: beneath its text, the way through the lesson. */
export function StepPage({ title, thread, text, foot, bench }: Props) {
  return (
    <LessonPage
      title={title}
      thread={thread}
      text={
        <>
          {text}
          {foot}
        </>
      }
      bench={bench}
    />
  );
}
