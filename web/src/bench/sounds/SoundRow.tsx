import { useEffect, useRef, useState } from "react";

import type { SamplerSound } from "../../api/client";
import { messageOf } from "../../api/messageOf";
import { AboutFields } from "../../sounds/AboutFields";
import { inWords } from "./SoundField";
import { SoundWave } from "../../sounds/SoundWave";
import { type About, addressOf, describe, giveUp } from "../../sounds/sounds";
import { Failure } from "../../ui/Failure";

interface Props {
  sound: SamplerSound;
  isNew: boolean;
  /** What choosing it does. */
  action: string;
  onChoose: (sound: SamplerSound) => void;
}

/** A sound in the list: what it looks like, what it is, and what can be done with it. */
export function SoundRow({ sound, isNew, action, onChoose }: Props) {
  const [editing, setEditing] = useState<About>();
  const [failure, setFailure] = useState<string>();
  const { facts, key, own, name, source, licence } = sound;
  const doing = (work: Promise<void>, done: () => void = () => undefined) => {
    setFailure(undefined);
    work.then(done, (error: unknown) => setFailure(messageOf(error)));
  };
  const credit = [source, licence].filter(Boolean).join(" · ");
  return (
    <article
      data-sound-row={name}
      className={`grid grid-cols-[150px_minmax(0,1fr)_auto] items-center gap-x-4 border-b border-rule px-2 py-1.5 ${isNew ? "bg-this-wash" : ""}`}
    >
      <SoundWave facts={facts} height={40} label={`${name}, its wave`} />
      <div className="min-w-0">
        <p className="font-read text-read font-medium wrap-anywhere first-letter:uppercase">{name}</p>
        <p className="text-soft tabular-nums">{inWords(facts, sound.note)}</p>
        {credit && <p className="text-soft">{credit}</p>}
        {isNew && <p className="text-this">Here. {arrivedAs(sound)}</p>}
      </div>
      <div className="flex flex-col items-end gap-1">
        <button type="button" className="button" onClick={() => onChoose(sound)}>
          {action}
        </button>
        <div className="flex gap-3">
          <Listen address={addressOf(sound)} name={name} />
          {own && (
            <button
              type="button"
              className="act"
              onClick={() => setEditing(editing ? undefined : { name, source, licence })}
            >
              {editing ? "Leave it" : "Describe…"}
            </button>
          )}
          {own && (
            <button
              type="button"
              className="act-away"
              title="Off your list; what plays it goes on to"
              onClick={() => doing(giveUp(key))}
            >
              Delete
            </button>
          )}
        </div>
      </div>
      {editing && (
        <AboutForm
          about={editing}
          onChange={setEditing}
          onKeep={() => doing(describe(key, editing), () => setEditing(undefined))}
        />
      )}
      <Failure said={failure} className="col-span-3 mt-1" />
    </article>
  );
}

interface AboutFormProps {
  about: About;
  onChange: (about: About) => void;
  onKeep: () => void;
}

function AboutForm({ about, onChange, onKeep }: AboutFormProps) {
  return (
    <form
      className="col-span-3 mt-2 flex flex-wrap items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        onKeep();
      }}
    >
      <AboutFields about={about} onChange={onChange} />
      <button type="submit" className="button" disabled={about.name.trim() === ""}>
        Keep
      </button>
    </form>
  );
}

/** What became of it, and what was found. */
function arrivedAs({ facts, note }: SamplerSound): string {
  const root = note ? `Its root is ${note}` : "It has no pitch that is sure, so no root is proposed";
  const loop =
    facts.loop_to > facts.loop_from
      ? `a loop is proposed from ${seconds(facts, facts.loop_from)} to ${seconds(facts, facts.loop_to)}`
      : "it is too short, or changes too much, for a loop";
  return [facts.words, `${root}; ${loop}.`].filter(Boolean).join(" ");
}

const seconds = (facts: SoundFacts, place: number) => `${(facts.seconds * place).toFixed(2)} s`;
type SoundFacts = SamplerSound["facts"];

/** Plays the sound as it is, and stops it. */
function Listen({ address, name }: { address: string; name: string }) {
  const player = useRef<HTMLAudioElement>(undefined);
  const [playing, setPlaying] = useState(false);
  const stop = () => {
    player.current?.pause();
    setPlaying(false);
  };
  useEffect(() => () => player.current?.pause(), []);
  const play = () => {
    player.current = new Audio(address);
    player.current.onended = () => setPlaying(false);
    setPlaying(true);
    player.current.play().catch(() => setPlaying(false));
  };
  return (
    <button
      type="button"
      className="act"
      aria-label={`${playing ? "Stop" : "Listen to"} ${name}`}
      onClick={playing ? stop : play}
    >
      {playing ? "Stop" : "Listen"}
    </button>
  );
}
