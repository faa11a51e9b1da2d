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
      {...onBench(lesson, contents, place, step, catalogue)}
      lookAt={state.lookAt}
      goesOn={state.goesOn === step.id}
      onWork={drafts.expect}
      onChange={(played, before) => change({ ...played, ...questionsAgain(step.id, played.patch) }, before)}
      phraseActions={<PhraseOn lesson={lesson} place={place} phrase={content.phrase} />}
      onMarks={(marks) => change({ marks })}
      onMoment={(moment) => change({ moment })}
      onLenses={(lenses) => change({ lenses })}
      onPlate={(plate) => change({ plates: withPlate(content.plates, plate) })}
    />
  );
}

function DetourBench({ detour }: { detour: Detour }) {
  const { catalogue } = useDesk();
  const { step, content, change } = useOpenStep();
  const { patch, phrase, detours } = content;
  const id = `${step.id}/${detour.id}`;
  const withPlayed = (played: Played) => {
    const own = JSON.stringify(played.phrase) === JSON.stringify(phrase) ? null : played.phrase;
    const changed = { ...detour, patch: played.patch, phrase: own };
    return { detours: detours.map((one) => (one.id === detour.id ? changed : one)) };
  };
  return (
    <Bench
      key={id}
      stepId={id}
      patch={detour.patch}
      phrase={detour.phrase ?? phrase}
      moment={content.moment ?? null}
      ownLenses={content.lenses ?? null}
      goesOn
      before={{ patch, phrase, name: "the step itself" }}
      target={undefined}
      instructions={step.detours[detours.indexOf(detour)] ?? []}
      catalogue={catalogue}
      phraseActions={
        <DetourPhrase
          own={detour.phrase !== null}
          onGiveUp={() => change(withPlayed({ patch: detour.patch, phrase }))}
        />
      }
      onWork={drafts.expect}
      onChange={(played, before) => change(withPlayed(played), withPlayed(before))}
    />
  );
}

/** Whose phrase a detour plays, and back to that of its step. */
const DetourPhrase = ({ own, onGiveUp }: { own: boolean; onGiveUp: () => void }) =>
  own ? (
    <button type="button" className="button" onClick={onGiveUp}>
      Play the phrase of the step again
    </button>
  ) : (
    <p className="text-soft">The detour plays the phrase of its step, until you change it here.</p>
  );
