import { type SubmitEvent, useState } from "react";

import { client, got, type Question } from "../api/client";
import { messageOf } from "../api/messageOf";
import { Failure } from "../ui/Failure";
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
        <AskForm place={place} text={text} onText={setText} onAsk={ask} onLeave={() => onPlace(undefined)} />
      )}
      <Failure said={failure} />
      {questions.map((one) => (
        <Asked key={one.id} question={one} onTakeBack={() => void takeBack(one.id)} />
      ))}
    </section>
  );
}

interface AskFormProps {
  place: string;
  text: string;
  onText: (text: string) => void;
  onAsk: (event: SubmitEvent) => void;
  onLeave: () => void;
}

/** Where a question is written. */
function AskForm({ place, text, onText, onAsk, onLeave }: AskFormProps) {
  return (
    <form onSubmit={onAsk} className="border border-firm bg-leaf p-2.5">
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
          onChange={(event) => onText(event.target.value)}
          onKeyDown={(event) => event.key === "Escape" && onLeave()}
        />
      </label>
      <div className="mt-1.5 flex gap-2">
        <button type="submit" className="button-strong" disabled={!text.trim()}>
          Ask
        </button>
        <button type="button" className="button" onClick={() => onLeave()}>
          Cancel
        </button>
      </div>
    </form>
  );
}

/** A question with its answer, or the way to take it back. */
function Asked({ question, onTakeBack }: { question: Question; onTakeBack: () => void }) {
  return (
    <article className="mt-2 border-l-3 border-rule pl-2.5">
      <p className="font-read text-read">{question.text}</p>
      {question.answer ? (
        <p className="mt-1 border-l-3 border-compared pl-2 font-read text-read">{question.answer}</p>
      ) : (
        <p className="text-note text-soft">
          Asked {dayAndTime(question.asked_at)}; not answered yet.{" "}
          <button type="button" className="act" onClick={onTakeBack}>
            Take it back
          </button>
        </p>
      )}
    </article>
  );
}
