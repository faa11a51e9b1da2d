import { useRef, useState } from "react";

import { client, got, type PlayedSound } from "../api/client";
import { messageOf } from "../ui/messageOf";
import { dayAndTime } from "../ui/times";
import { refreshOwn } from "./attempts";
import { Compared } from "./Compared";
import { record, type Recording } from "./record";

const LONGEST_S = 60;
const SILENCE = 0.003;

/** What has been recorded so far, and whether the last second of it was silent. */
interface Heard {
  seconds: number;
  silent: boolean;
}

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
  const [recording, setRecording] = useState<Recording>();
  const [heard, setHeard] = useState<Heard>();
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const params = { path: { lesson_id: lessonId, step_id: stepId } };

  const send = async (data: Blob, name: string) => {
    setBusy(true);
    setFailure(undefined);
    try {
      await got(
        client.POST("/api/practice/{lesson_id}/steps/{step_id}/played", {
          params: { ...params, query: { name: name.slice(0, 120) || "a recording" } },
          body: data as never,
          bodySerializer: (body: unknown) => body as BodyInit,
          headers: { "Content-Type": "application/octet-stream" },
        }),
      );
      await refreshOwn(lessonId, stepId);
    } catch (error) {
      setFailure(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  const stop = async (now: Recording) => {
    clearTimeout(timer.current);
    setRecording(undefined);
    await send(await now.stop(), `recorded ${dayAndTime(new Date().toISOString())}`);
  };
  const begin = async () => {
    setFailure(undefined);
    try {
      setHeard({ seconds: 0, silent: false });
      const now = await record((seconds, peak) => setHeard({ seconds, silent: peak < SILENCE }));
      setRecording(now);
      timer.current = setTimeout(() => void stop(now), LONGEST_S * 1000);
    } catch (error) {
      const refused = error instanceof DOMException && error.name === "NotAllowedError";
      setFailure(
        refused ? "The browser was not allowed to listen." : "There is no microphone to listen with.",
      );
    }
  };
  return { busy, failure, recording, heard, send, stop, begin };
}

/** Gives a file, or what is recorded here. */
function Giving({ busy, failure, recording, heard, send, stop, begin }: ReturnType<typeof useGiving>) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <div className="mt-1.5 flex flex-wrap gap-2">
        <button
          type="button"
          className="button"
          disabled={busy || recording !== undefined}
          onClick={() => file.current?.click()}
        >
          {busy ? "Reading…" : "Choose a file…"}
        </button>
        <input
          ref={file}
          type="file"
          hidden
          aria-label="A recording of the phrase"
          accept="audio/wav,audio/x-wav,audio/flac,.wav,.flac"
          onChange={(event) => {
            const [chosen] = event.currentTarget.files ?? [];
            event.currentTarget.value = "";
            if (chosen) void send(chosen, chosen.name);
          }}
        />
        {recording ? (
          <button type="button" className="button-strong" onClick={() => void stop(recording)}>
            Stop and compare
          </button>
        ) : (
          <button type="button" className="button" disabled={busy} onClick={() => void begin()}>
            Record here
          </button>
        )}
      </div>
      {recording && heard && (
        <p className="mt-1.5 tabular-nums" data-recorded-s={heard.seconds}>
          Listening: {heard.seconds} s of at most {LONGEST_S} s{heard.silent && "; nothing is heard"}
        </p>
      )}
      {failure && (
        <p role="alert" className="mt-1.5 text-warn">
          {failure}
        </p>
      )}
    </>
  );
}
