import { type SubmitEvent, useState } from "react";

import { client, got, type Question } from "../api/client";
import { messageOf } from "../api/messageOf";
import { dayAndTime } from "../ui/times";
import { refreshOwn } from "./attempts";

interface Props {
  lessonId: string;
  stepId: string;
  attemptId: string;
  questions: Question[];
  /** What a question is being asked about; undefined while none is asked. */
  place: string | undefined;
  onPlace: (place: string | undefined) => void;
}

/** What one has asked at a step, with the answers, and the place where one asks. */
export function Questions({ lessonId, stepId, attemptId, questions, place, onPlace }: Props) {
  const [text, setText] = useState("");
  const [failure, setFailure] = useState<string>();
  const ask = (event: SubmitEvent) => {
    event.preventDefault();
    const params = { path: { lesson_id: lessonId, step_id: stepId } };
    const body = { place: (place ?? "").slice(0, 400), text, attempt_id: attemptId };
    got(client.POST("/api/practice/{lesson_id}/steps/{step_id}/questions", { params, body })).then(
      () => {
        setText("");
        setFailure(undefined);
        onPlace(undefined);
        void refreshOwn(lessonId, stepId);
      },
      (error: unknown) => setFailure(messageOf(error)),
    );
  };
  const takeBack = (id: string) =>
    got(
      client.DELETE("/api/attempts/questions/{question_id}", { params: { path: { question_id: id } } }),
    ).then(
      () => void refreshOwn(lessonId, stepId),
      (error: unknown) => setFailure(messageOf(error)),
    );
  return (
    <section aria-label="Questions" className="mt-3" data-questions>
      {place !== undefined && (
        <form onSubmit={ask} className="border border-firm bg-leaf p-2.5">
          <label className="block">
            <span className="mb-1 block text-soft">
              {place ? `Ask about “${place}”` : "Ask the educator"}; your bench goes with it
            </span>
            <textarea
              autoFocus
              rows={3}
              maxLength={2000}
              className="field-sizing-content w-full rounded border border-firm bg-paper p-1.5 font-read text-read"
              value={text}
              onChange={(event) => setText(event.target.value)}
              onKeyDown={(event) => event.key === "Escape" && onPlace(undefined)}
            />
          </label>
          <div className="mt-1.5 flex gap-2">
            <button type="submit" className="button-strong" disabled={!text.trim()}>
              Ask
            </button>
            <button type="button" className="button" onClick={() => onPlace(undefined)}>
              Cancel
            </button>
          </div>
        </form>
      )}
      {failure && (
        <p role="alert" className="text-warn">
          {failure}
        </p>
      )}
      {questions.map((one) => (
        <article key={one.id} className="mt-2 border-l-3 border-rule pl-2.5">
          <p className="font-read text-read">{one.text}</p>
          {one.answer ? (
            <p className="mt-1 border-l-3 border-compared pl-2 font-read text-read">{one.answer}</p>
          ) : (
            <p className="text-note text-soft">
              Asked {dayAndTime(one.asked_at)}; not answered yet.{" "}
              <button type="button" className="act" onClick={() => void takeBack(one.id)}>
                Take it back
              </button>
            </p>
          )}
        </article>
      ))}
    </section>
  );
}
