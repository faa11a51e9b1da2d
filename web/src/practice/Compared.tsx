import { useQuery } from "@tanstack/react-query";

import { client, got, type PlayedSound, type SoundNear } from "../api/client";
import { useLenses } from "../lenses/store";
import { AdviceList } from "./AdviceList";
import { refreshOwn, refreshStandings } from "./attempts";
import { SoundNearness } from "./Nearness";
import { useAdvice } from "./useAdvice";
import { Failure } from "../ui/Failure";

interface Props {
  lessonId: string;
  stepId: string;
  played: PlayedSound;
}

/** How near a recording is, what to turn on the instrument, and the way to see it behind every lens. */
export function Compared({ lessonId, stepId, played }: Props) {
  const path = { lesson_id: lessonId, step_id: stepId, played_id: played.id };
  const found = useQuery({
    queryKey: ["played", stepId, played.id],
    staleTime: Infinity,
    queryFn: async () => {
      const answer = await got(
        client.GET("/api/practice/{lesson_id}/steps/{step_id}/played/{played_id}", { params: { path } }),
      );
      void refreshStandings(lessonId);
      return answer;
    },
  });
  const drop = () =>
    client
      .DELETE("/api/practice/{lesson_id}/steps/{step_id}/played/{played_id}", { params: { path } })
      .then(() => refreshOwn(lessonId, stepId));
  return (
    <article className="mt-2 border-t border-rule pt-2" data-compared={said(found.data)}>
      <div className="flex items-baseline justify-between gap-2">
        <b className="min-w-0 truncate font-semibold" title={played.name}>
          {played.name}
        </b>
        <button type="button" className="act-quiet text-note" onClick={() => void drop()}>
          Delete
        </button>
      </div>
      {found.isPending && (
        <p role="status" className="text-soft">
          Listening…
        </p>
      )}
      <Failure said={found.error?.message} />
      {found.data && <Answer sound={found.data} played={played} path={path} />}
    </article>
  );
}

const said = (sound: SoundNear | undefined) =>
  sound === undefined
    ? "listening"
    : sound.cannot_tell !== null
      ? "unknown"
      : sound.same
        ? "same"
        : "otherwise";

interface AnswerProps {
  sound: SoundNear;
  played: PlayedSound;
  path: { lesson_id: string; step_id: string; played_id: string };
}

function Answer({ sound, played, path }: AnswerProps) {
  const lenses = useLenses();
  const advice = useAdvice((ticket) =>
    got(
      client.POST("/api/practice/{lesson_id}/steps/{step_id}/played/{played_id}/advice", {
        params: { path, query: { ticket } },
      }),
    ),
  );
  const behind = lenses.recording?.recording === played.key && lenses.against === "recording";
  const show = () =>
    behind
      ? lenses.compareWith("target")
      : lenses.showRecording({ recording: played.key, legend: played.name, begins_s: sound.begins_s });
  const told = sound.cannot_tell === null;
  return (
    <>
      {told && (
        <p className="mt-1 font-read text-read">
          {sound.same && <b className="mr-1 font-semibold text-ok">✓</b>}
          {sound.same ? "It sounds as it should." : `It sounds otherwise. ${sound.sentence}`}
        </p>
      )}
      <SoundNearness sound={sound} />
      <div className="mt-1.5 flex flex-wrap items-baseline gap-x-3 gap-y-1">
        {told && !sound.same && (
          <button type="button" className="button" disabled={advice.busy} onClick={() => void advice.ask()}>
            What should I turn?
          </button>
        )}
        <button type="button" className="act" onClick={show}>
          {behind ? "Show the target behind the lenses" : "Show it behind the lenses"}
        </button>
      </div>
      <AdviceList advice={advice} />
    </>
  );
}
