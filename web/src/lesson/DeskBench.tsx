import type { Detour } from "../api/client";
import { Bench } from "../bench/Bench";
import type { Played } from "../bench/history";
import { useDesk, useOpenStep } from "./DeskContext";
import { drafts } from "./drafts";
import { onBench } from "./onBench";
import { PhraseOn } from "./PhraseOn";
import { withPlate } from "./Plates";
import { questionsAgain } from "./questions";

/** The bench of the step that is being written, or of a detour of it. */
export function DeskBench() {
  const { detour } = useOpenStep();
  return detour ? <DetourBench detour={detour} /> : <StepBench />;
}

function StepBench() {
  const { lesson, place, contents, catalogue, state } = useDesk();
  const { step, content, change } = useOpenStep();
  return (
    <Bench
      key={step.id}
      {...onBench(lesson, contents, place, step)}
      catalogue={catalogue}
      lookAt={state.lookAt}
      onWork={drafts.expect}
      onChange={(played, before) => change({ ...played, ...questionsAgain(step.id, played.patch) }, before)}
      phraseActions={<PhraseOn lesson={lesson} place={place} phrase={content.phrase} />}
      onMoment={(moment) => change({ moment })}
      onPlate={(plate) => change({ plates: withPlate(content.plates, plate) })}
    />
  );
}

function DetourBench({ detour }: { detour: Detour }) {
  const { catalogue } = useDesk();
  const { step, content, change } = useOpenStep();
  const { patch, phrase, detours } = content;
  const id = `${step.id}/${detour.id}`;
  const withPatch = (played: Played) => ({
    detours: detours.map((one) => (one.id === detour.id ? { ...one, patch: played.patch } : one)),
  });
  return (
    <Bench
      key={id}
      stepId={id}
      patch={detour.patch}
      phrase={phrase}
      moment={content.moment ?? null}
      before={{ patch, phrase, name: "the step itself" }}
      target={undefined}
      instructions={step.detours[detours.indexOf(detour)] ?? []}
      catalogue={catalogue}
      phraseStays="A detour plays the phrase of its step."
      onWork={drafts.expect}
      onChange={(played, before) => change(withPatch(played), withPatch(before))}
    />
  );
}
