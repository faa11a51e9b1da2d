import { useState } from "react";

import { client, got, type SamplerSound } from "../../api/client";
import { titleOf } from "../../api/patch";
import { useBench } from "../BenchContext";
import { messageOf } from "../../api/messageOf";
import { Panel } from "../../ui/Panel";
import { NewSound } from "./NewSound";
import { SoundRow } from "./SoundRow";
import { choosing, keyOf, useSound, useSounds } from "../../sounds/sounds";

/** The sounds that samplers can play; one is chosen for a sampler, or for a new one. */
export function SoundsPanel({ module }: { module?: string | undefined }) {
  const { patch, catalogue, state, soundsHere = [] } = useBench();
  const { data, error } = useSounds();
  const [arrived, setArrived] = useState<string>();
  const choose = useChoosing(module);
  const sampler = patch.modules.find((one) => one.id === module);
  const action = sampler ? `Play it with ${titleOf(sampler, catalogue)}` : "Put in a sampler";
  const own = data?.own.toSorted((a, b) => Number(b.key === arrived) - Number(a.key === arrived)) ?? [];
  const elsewhere = soundsHere.filter((sound) => !own.some(({ key }) => key === keyOf(sound)));
  const row = (one: SamplerSound) => (
    <SoundRow key={one.sound} sound={one} isNew={one.key === arrived} action={action} onChoose={choose.run} />
  );
  return (
    <Panel title="Sounds for samplers" size="wide" onClose={() => state.ask(undefined)}>
      <div className="min-h-0 overflow-y-auto px-4 pt-1 pb-4" data-sounds={data ? own.length : "busy"}>
        <NewSound onArrival={({ key }) => setArrived(key)} />
        {(choose.failure ?? error?.message) && (
          <p role="alert" className="mt-2 text-warn">
            {choose.failure ?? error?.message}
          </p>
        )}
        {!data && !error && (
          <p role="status" className="mt-3 text-soft">
            Listening to them…
          </p>
        )}
        {elsewhere.length > 0 && <Heading>In this lesson</Heading>}
        {elsewhere.map((sound) => (
          <ForeignRow key={sound} sound={sound} draw={row} />
        ))}
        {data && (
          <Heading aside={`${minutes(data.seconds)} of ${minutes(data.most_seconds)} taken`}>Yours</Heading>
        )}
        {own.map(row)}
        {data && own.length === 0 && (
          <p className="py-1 font-read text-soft italic">
            None yet: bring a file, record one, or make one of what is heard here.
          </p>
        )}
        {data && <Heading>That come with the program</Heading>}
        {data?.shipped.map(row)}
      </div>
    </Panel>
  );
}

/** Lets a sampler play a sound: the one that asks, or a new one where it usually goes. */
function useChoosing(module: string | undefined) {
  const { patch, catalogue, state, moves } = useBench();
  const [failure, setFailure] = useState<string>();
  const type = [...catalogue.values()].find((one) => one.choices.some((choice) => choice.own));
  const setting = type?.choices.find((choice) => choice.own)?.name ?? "";
  const place = async (): Promise<string | undefined> => {
    const places = await got(client.POST("/api/patches/placements", { body: { patch } }));
    const [first] = places[type?.name ?? ""] ?? [];
    return first && (await moves.apply(first.edits))?.[0];
  };
  const run = (sound: SamplerSound) => {
    setFailure(undefined);
    const done = async () => {
      const sampler = module ?? (await place());
      if (sampler === undefined)
        throw new Error("There is no place for a sampler. Put one in by hand first.");
      await moves.apply(choosing(sampler, setting, sound));
      state.ask(undefined);
      state.select([sampler]);
      state.say(`“${sound.name}” is played.`);
    };
    done().catch((error: unknown) => setFailure(messageOf(error)));
  };
  return { run, failure };
}

/** A sound that the lesson plays and one does not have oneself. */
function ForeignRow({ sound, draw }: { sound: string; draw: (one: SamplerSound) => React.ReactNode }) {
  const { data } = useSound(sound);
  return data && draw({ ...data, sound });
}

function Heading({ children, aside }: { children: string; aside?: string }) {
  return (
    <h3 className="mt-3 flex items-baseline justify-between border-b border-rule pb-1 font-semibold">
      {children}
      {aside && <span className="font-normal text-soft tabular-nums">{aside}</span>}
    </h3>
  );
}

const minutes = (seconds: number) =>
  seconds < 60 ? `${Math.round(seconds)} s` : `${(seconds / 60).toFixed(seconds < 600 ? 1 : 0)} min`;
