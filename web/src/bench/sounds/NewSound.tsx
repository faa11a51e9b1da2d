import { useState } from "react";

import type { SamplerSound } from "../../api/client";
import { isSound, titleOf } from "../../api/patch";
import { useBench } from "../BenchContext";
import { Failure } from "../../ui/Failure";
import { Choice } from "../../ui/Choice";
import { FileButton } from "../../ui/FileButton";
import { Listening } from "../../ui/Listening";
import { messageOf } from "../../api/messageOf";
import { useMicrophone } from "../../ui/useMicrophone";
import { AboutFields } from "../../sounds/AboutFields";
import { type About, type Made, make, send } from "../../sounds/sounds";

/** Of what a sound is to be made, and what it could be called. */
interface Origin {
  words: string;
  name: string;
  make: (about: About) => Promise<SamplerSound>;
}

/** Brings a sound: from a file, from the microphone, or of what is heard at the bench. */
export function NewSound({ onArrival }: { onArrival: (sound: SamplerSound) => void }) {
  const [origin, setOrigin] = useState<Origin>();
  const { heard, failure, begin, stop } = useMicrophone((file) => setOrigin(fromFile(file, "recorded", "")));
  const choose = (file: File) =>
    setOrigin(fromFile(file, `“${file.name}”`, file.name.replace(/\.[^.]*$/, "")));
  if (origin)
    return <Keeping key={origin.words} {...{ origin, onArrival }} onDone={() => setOrigin(undefined)} />;
  return (
    <div
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const file = event.dataTransfer.files.item(0);
        if (file) choose(file);
      }}
    >
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <FileButton
          label="A sound file"
          accept="audio/*,.wav,.flac,.aiff,.aif,.ogg,.opus,.caf"
          title="WAV, FLAC, AIFF, Ogg, up to a minute; or drop one here"
          autoFocus
          onChoose={choose}
        >
          Bring a file…
        </FileButton>
        {heard ? (
          <button type="button" className="button-strong" onClick={stop}>
            Stop recording
          </button>
        ) : (
          <button type="button" className="button" onClick={begin}>
            Record one
          </button>
        )}
        <OfTheBench onChoose={setOrigin} />
      </div>
      {heard && <Listening heard={heard} />}
      <Failure said={failure} className="mt-1.5" />
    </div>
  );
}

const fromFile = (file: File, words: string, name: string): Origin => ({
  words,
  name,
  make: (about) => send(file, about),
});

const WHOLE = "whole";

/** Makes a sound of what is heard at the bench, or of what one module gives: all of it, or the moment that is looked at. */
function OfTheBench({ onChoose }: { onChoose: (origin: Origin) => void }) {
  const { patch, catalogue, now } = useBench();
  const render = now.data;
  if (!render) return null;
  const { begin_s, end_s, words } = render.moment;
  const from = (of: Made, name: string, what: string): Origin => ({
    words: what,
    name,
    make: (about) => make({ take: render.key, ...of }, about),
  });
  const modules = patch.modules.filter((one) => isSound(one, catalogue));
  const taps = modules.flatMap((one) => {
    const main = catalogue.get(one.type)?.main;
    return main ? [{ tap: `${one.id}.${main}`, title: titleOf(one, catalogue) }] : [];
  });
  const parts = [
    { part: {}, word: "all of it" },
    { part: { begin_s, end_s }, word: words },
  ];
  const options = [{ tap: undefined, title: "What is heard" }, ...taps].flatMap(({ tap, title }) =>
    parts.map(({ part, word }) => ({
      origin: from(
        { ...part, ...(tap ? { tap } : {}) },
        tap ? title : patch.title || "A take",
        `${title}, ${word}`,
      ),
      word: `${title}, ${word}`,
    })),
  );
  return (
    <Choice
      label="Of what is heard here"
      className="button max-w-60"
      options={[
        { value: WHOLE, word: "Of what is heard here…" },
        ...options.map((one, place) => ({ value: String(place), word: one.word })),
      ]}
      value={WHOLE}
      onChange={(place) => {
        const chosen = options[Number(place)];
        if (chosen) onChoose(chosen.origin);
      }}
    />
  );
}

interface KeepingProps {
  origin: Origin;
  onArrival: (sound: SamplerSound) => void;
  onDone: () => void;
}

/** Asks what a sound is called before it is kept. */
function Keeping({ origin, onArrival, onDone }: KeepingProps) {
  const [about, setAbout] = useState<About>({
    name: origin.name.trim().slice(0, 60),
    source: "",
    licence: "",
  });
  const [busy, setBusy] = useState(false);
  const [failure, setFailure] = useState<string>();
  const keep = async () => {
    setBusy(true);
    setFailure(undefined);
    try {
      onArrival(await origin.make({ ...about, name: about.name.trim() }));
      onDone();
    } catch (error) {
      setFailure(messageOf(error));
      setBusy(false);
    }
  };
  return (
    <form
      className="mt-1"
      data-new-sound
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
    >
      <p className="font-read text-read">A new sound: {origin.words}</p>
      <div className="mt-1 flex flex-wrap items-end gap-2">
        <AboutFields about={about} onChange={setAbout} />
        <button type="submit" className="button-strong" disabled={busy || about.name.trim() === ""}>
          {busy ? "Listening…" : "Keep it"}
        </button>
        <button type="button" className="act-quiet" onClick={onDone}>
          Leave it
        </button>
      </div>
      <Failure said={failure} className="mt-1.5" />
    </form>
  );
}
