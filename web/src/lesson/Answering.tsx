import { type SubmitEvent, useState } from "react";

import { client, got, type Question } from "../api/client";
import { messageOf } from "../api/messageOf";
import { Failure } from "../ui/Failure";
import { dayAndTime } from "../ui/times";

/** A question of a learner's, and the place where the educator answers it. */
export function Answering({ question, onAnswered }: { question: Question; onAnswered: () => void }) {
  const [text, setText] = useState(question.answer);
  const [failure, setFailure] = useState<string>();
  const answer = (event: SubmitEvent) => {
    event.preventDefault();
    const params = { path: { question_id: question.id } };
    got(client.PUT("/api/questions/{question_id}", { params, body: { text } })).then(
      () => {
        setFailure(undefined);
        onAnswered();
      },
      (error: unknown) => setFailure(messageOf(error)),
    );
  };
  return (
    <form onSubmit={answer} className="mt-2" data-question={question.answer ? "answered" : "open"}>
      {question.place && <p className="text-note text-soft">About “{question.place}”</p>}
      <p className="border-l-3 border-ink pl-2 font-read text-read">{question.text}</p>
      <p className="text-note text-soft">
        {dayAndTime(question.asked_at)}
        {question.answered_at && `; answered ${dayAndTime(question.answered_at)}`}
      </p>
      <label className="mt-1 block">
        <span className="sr-only">Answer</span>
        <textarea
          rows={2}
          maxLength={4000}
          placeholder="Answer…"
          className="field-sizing-content w-full rounded border border-firm bg-paper p-1.5 font-read text-read"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      {text.trim() !== question.answer && (
        <button type="submit" className="button-strong mt-1" disabled={!text.trim()}>
          {question.answer ? "Answer anew" : "Answer"}
        </button>
      )}
      <Failure said={failure} />
    </form>
  );
}
