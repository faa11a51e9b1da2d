import { useState } from "react";
import { Navigate, useParams } from "react-router";

import { useLesson } from "../api/queries";
import { Notice } from "../ui/Notice";
import { useKeys } from "../ui/useKeys";
import { DeskBench } from "./DeskBench";
import { DeskContext, useDesk, useDeskView } from "./DeskContext";
import { DeskNotes } from "./DeskNotes";
import { DeskText } from "./DeskText";
import { LessonMenu } from "./LessonMenu";
import { LessonPage } from "./LessonPage";
import { LessonScreen, type OpenLesson, TARGET } from "./LessonScreen";
import { LessonTitle } from "./LessonTitle";
import { add, finish } from "./steps";
import { TargetPage } from "./TargetPage";
import { Thread } from "./Thread";

/** Writing a lesson: its steps on the left, the bench beside them. */
export function Desk() {
  const { lessonId = "" } = useParams();
  const lesson = useLesson(lessonId);
  const [failure, setFailure] = useState<string>();
  if (lesson.data?.right === "read") return <Navigate to={`/practice/${lessonId}/1`} replace />;
  return (
    <LessonScreen
      screen="desk"
      lesson={lesson}
      title={(shown) => (
        <>
          <LessonTitle lesson={shown} onFailure={setFailure} />
          <LessonMenu lesson={shown} onFailure={setFailure} />
        </>
      )}
    >
      {(open) => (
        <>
          <OpenDesk {...open} />
          {failure && (
            <Notice warn onClose={() => setFailure(undefined)}>
              {failure}
            </Notice>
          )}
        </>
      )}
    </LessonScreen>
  );
}

function OpenDesk(props: OpenLesson) {
  const view = useDeskView(props);
  const { contents, place, state, open } = view;
  const target = place === TARGET && contents.length > 1 ? contents.at(-1) : undefined;
  useKeys({ F: state.capturing && open ? () => finish(view) : undefined });
  return (
    <DeskContext value={view}>
      {target ? (
        <TargetPage
          lesson={view.lesson}
          last={target}
          catalogue={view.catalogue}
          thread={<DeskThread />}
          foot={
            <p className="border-t border-rule px-4 py-2.5 text-note text-soft">
              What stands here is written under Lesson…, About the lesson.
            </p>
          }
        />
      ) : (
        <>
          <LessonPage
            title={contents[place]?.title ?? view.lesson.title}
            thread={<DeskThread />}
            text={open && <DeskText />}
            bench={open ? <DeskBench /> : <NoSteps onAdd={() => add(view)} />}
          />
          <DeskNotes />
        </>
      )}
    </DeskContext>
  );
}

function DeskThread() {
  const desk = useDesk();
  return (
    <Thread
      titles={desk.contents.map((one) => one.title)}
      extra={desk.contents.map((one) => one.extra)}
      asks={desk.contents.map((one) => one.decisions.length > 0)}
      others={desk.others}
      place={desk.place}
      targetFirst={desk.lesson.target_first}
      to={desk.to}
      onAdd={() => add(desk)}
    />
  );
}

function NoSteps({ onAdd }: { onAdd: () => void }) {
  return (
    <div className="m-auto text-center font-read text-read">
      <h1 className="mb-3">This lesson has no steps yet.</h1>
      <button type="button" className="button-strong font-work" onClick={onAdd}>
        Add the first step
      </button>
    </div>
  );
}
