import { useState } from "react";

import { client, got, type PlayedSound, sentAs } from "../api/client";
import { Failure } from "../ui/Failure";
import { FileButton } from "../ui/FileButton";
import { Listening } from "../ui/Listening";
import { messageOf } from "../api/messageOf";
import { dayAndTime } from "../ui/times";
import { useMicrophone } from "../ui/useMicrophone";
import { refreshOwn } from "./attempts";
import { Compared } from "./Compared";

interface Props {
  lessonId: string;
  stepId: string;
  played: PlayedSound[];
}

/** For those who do the step on another instrument: its recording is measured against the step. */
export function PlayedPanel({ lessonId, stepId, played }: Props) {
  const giving = useGiving(lessonId, stepId);
  const [latest, ...earlier] = played;
  return (
    <details className="mt-3 border-t border-rule pt-2.5" open={played.length > 0} data-played>
      <summary className="cursor-pointer font-semibold text-soft">On another instrument</summary>
      <p className="mt-1 font-read text-work">
        Play the phrase on your own instrument and give the recording: WAV or FLAC, up to a minute.
      </p>
      <Giving {...giving} />
      {latest && <Compared key={latest.id} {...{ lessonId, stepId }} played={latest} />}
      {earlier.length > 0 && (
        <details className="mt-2">
          <summary className="cursor-pointer text-soft">Earlier recordings ({earlier.length})</summary>
          {earlier.map((one) => (
            <Compared key={one.id} {...{ lessonId, stepId }} played={one} />
          ))}
        </details>
      )}
    </details>
  );
}

/** The ways to give a recording: as a file, or from the microphone. */
function useGiving(lessonId: string, stepId: string) {
  const [busy, setBusy] = useState(false);
  const [failure, setFailure] = useState<string>();
  const params = { path: { lesson_id: lessonId, step_id: stepId } };

  const send = async (data: File, name: string) => {
    setBusy(true);
    setFailure(undefined);
    try {
      await got(
        client.POST("/api/practice/{lesson_id}/steps/{step_id}/played", {
          params: { ...params, query: { name: name.slice(0, 120) || "a recording" } },
          ...(await sentAs(data)),
        }),
      );
      await refreshOwn(lessonId, stepId);
    } catch (error) {
      setFailure(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  const microphone = useMicrophone((file) => send(file, `recorded ${dayAndTime(new Date().toISOString())}`));
  return { busy, failure: failure ?? microphone.failure, microphone, send };
}

/** Gives a file, or what is recorded here. */
function Giving({ busy, failure, microphone, send }: ReturnType<typeof useGiving>) {
  const { heard } = microphone;
  return (
    <>
      <div className="mt-1.5 flex flex-wrap gap-2">
        <FileButton
          label="A recording of the phrase"
          accept="audio/wav,audio/x-wav,audio/flac,.wav,.flac"
          disabled={busy || heard !== undefined}
          onChoose={(file) => void send(file, file.name)}
        >
          {busy ? "Reading…" : "Choose a file…"}
        </FileButton>
        {heard ? (
          <button type="button" className="button-strong" onClick={microphone.stop}>
            Stop and compare
          </button>
        ) : (
          <button type="button" className="button" disabled={busy} onClick={microphone.begin}>
            Record here
          </button>
        )}
      </div>
      {heard && <Listening heard={heard} />}
      <Failure said={failure} className="mt-1.5" />
    </>
  );
}
