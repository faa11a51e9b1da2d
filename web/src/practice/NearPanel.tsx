import { type ReactNode, useEffect, useRef } from "react";

import { client, got, type Near } from "../api/client";
import { AdviceList } from "./AdviceList";
import { SoundNearness } from "./Nearness";
import { type Searching, useAdvice } from "./useAdvice";
import { type NearProps, useNear } from "./useNear";
import { Failure } from "../ui/Failure";

/** How near one is to what the step leads to, and what helps on: hints, advice, being shown. */
export function NearPanel(props: NearProps) {
  const { lessonId, stepId, patch } = props;
  const told = useNear(props);
  const { near, old, doing, failure } = told;
  const params = { path: { lesson_id: lessonId, step_id: stepId } };
  const advice = useAdvice((ticket) =>
    got(client.POST("/api/practice/{lesson_id}/steps/{step_id}/advice", { params, body: { patch, ticket } })),
  );
  const ask = () => {
    advice.drop();
    void told.ask();
  };
  const foot = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (near) foot.current?.scrollIntoView({ block: "nearest" });
  }, [near, told.help, advice.found]);
  return (
    <section
      aria-label="How near am I?"
      className="mt-3 border-t border-rule pt-2.5"
      data-near={stateOf(near)}
    >
      <div className="flex items-baseline justify-between gap-2">
        <button
          type="button"
          className={near && !old ? "button" : "button-strong"}
          disabled={doing !== undefined}
          onClick={ask}
        >
          {doing === "asking" ? "Listening…" : "How near am I?"}
        </button>
        {near && old && doing !== "showing" && (
          <span className="text-note text-soft">before your last change</span>
        )}
        {doing === "showing" && (
          <span role="status" className="text-note text-soft">
            Watch…
          </span>
        )}
      </div>
      <Failure said={failure} className="mt-1.5" />
      {near && (
        <div className={old ? "opacity-60" : ""}>
          <p role="status" className="mt-2 font-read text-read leading-[1.45]">
            {near.done && <b className="mr-1 font-semibold text-ok">✓</b>}
            {near.answer}
          </p>
          {!near.untouched && <SoundNearness sound={near.sound} />}
        </div>
      )}
      {near && !near.done && !old && <Help {...props} near={near} told={told} advice={advice} />}
      <div ref={foot} className="scroll-mb-3" />
    </section>
  );
}

function stateOf(near: Near | undefined): string {
  if (!near) return "unasked";
  return near.done ? "done" : near.near ? "near" : near.untouched ? "untouched" : "off";
}

interface HelpProps extends NearProps {
  near: Near;
  told: ReturnType<typeof useNear>;
  advice: Searching;
}

/** What helps on: first where to look, then what to do, then being shown; what to turn; and a question. */
function Help({ near, told, advice, onLook, onAsk }: HelpProps) {
  const { help, setHelp, show, doing } = told;
  const [hint] = near.hints;
  const sounds = !near.sound.same && near.sound.cannot_tell === null && !near.untouched;
  return (
    <>
      {hint && help && (
        <p className="mt-2 border-l-3 border-this pl-2 font-read text-read" data-hint={help}>
          {hint[help]}
        </p>
      )}
      <div className="mt-2 flex flex-wrap items-baseline gap-x-3 gap-y-1.5">
        {hint && help !== "what" && (
          <button
            type="button"
            className="button"
            onClick={() => {
              setHelp(help === undefined ? "where" : "what");
              onLook(hint.module);
            }}
          >
            {help === undefined ? "A hint" : "A plainer hint"}
          </button>
        )}
        {hint && help !== undefined && (
          <Word onClick={() => void show([hint])} disabled={doing !== undefined}>
            Show me
          </Word>
        )}
        {near.hints.length > 1 && help !== undefined && (
          <Word onClick={() => void show(near.hints)} disabled={doing !== undefined}>
            Show me all {near.hints.length}
          </Word>
        )}
        {sounds && (
          <Word onClick={() => void advice.ask()} disabled={advice.busy}>
            What should I turn?
          </Word>
        )}
        <Word onClick={() => onAsk(help && hint ? hint[help] : "")}>Ask the educator</Word>
      </div>
      <AdviceList advice={advice} onLook={onLook} />
    </>
  );
}

interface WordProps {
  onClick: () => void;
  disabled?: boolean;
  children: ReactNode;
}

/** Something that can be done, as a word. */
function Word({ onClick, disabled = false, children }: WordProps) {
  return (
    <button type="button" className="act" disabled={disabled} onClick={onClick}>
      {children}
    </button>
  );
}
