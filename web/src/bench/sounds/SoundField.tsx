import type { SoundFacts } from "../../api/client";
import { settingOf } from "../../api/patch";
import { useBench } from "../BenchContext";
import type { InspectedModule } from "../inUse";
import { trimmed, withUnit } from "../../ui/units";
import { type PlaceName, type Places, SoundWave } from "../../sounds/SoundWave";
import { nameOf, useSound } from "../../sounds/sounds";

interface Props extends InspectedModule {
  setting: string;
  help: string;
}

/** The sound that a sampler plays: what it is, what of it is played, and the way to another one. */
export function SoundField({ module, type, old, set, setting, help }: Props) {
  const { state } = useBench();
  const sound = String(settingOf(module, type, setting));
  const before = old && String(settingOf(old, type, setting));
  const { data, gone } = useSound(sound);
  const places = placesOf((name) => settingOf(module, type, name));
  const credit = [data?.source, data?.licence].filter(Boolean).join(" · ");
  return (
    <div className="mt-1.5" data-sound={nameOf(sound)}>
      <div className="flex items-baseline gap-2" title={help}>
        <span className="min-w-0 flex-1 truncate">
          <b className="font-semibold">{nameOf(sound)}</b>
          {before !== undefined && before !== sound && (
            <span className="ml-1.5 text-compared-text">was {nameOf(before)}</span>
          )}
        </span>
        {set && (
          <button
            type="button"
            className="act"
            onClick={() => state.ask({ what: "sounds", module: module.id })}
          >
            Another sound…
          </button>
        )}
      </div>
      {gone && (
        <p role="alert" className="text-warn">
          This sound is gone. Choose another one.
        </p>
      )}
      {data && (
        <>
          <SoundWave
            facts={data.facts}
            places={places}
            label={`${data.name}: ${inWords(data.facts, data.note)}`}
            onMove={set && ((name, place) => moved(places, name, place) && set(name, place))}
          />
          <p className="text-soft tabular-nums">{inWords(data.facts, data.note)}</p>
          {credit && <p className="text-soft">{credit}</p>}
        </>
      )}
    </div>
  );
}

/** A sound in a few figures. */
export const inWords = ({ seconds, peak_db, loudness_lufs }: SoundFacts, note: string): string =>
  [
    `${trimmed(seconds, 3)} s`,
    note || "no pitch",
    `peak ${withUnit(Number(peak_db.toFixed(1)), "dB")}`,
    `${trimmed(loudness_lufs, 3)} LUFS`,
  ].join(" · ");

function placesOf(value: (name: string) => unknown): Places {
  const [from, to] = [Number(value("loop_from")), Number(value("loop_to"))];
  return {
    start: Number(value("start")),
    end: Number(value("end")),
    loop: value("loop") === "on" && to > from ? [from, to] : undefined,
    backward: value("direction") === "backward",
  };
}

/** Whether a place may be moved there: beginnings stay before ends. */
function moved({ start, end, loop }: Places, name: PlaceName, place: number): boolean {
  const [from, to] = loop ?? [0, 1];
  return { start: place < end, end: place > start, loop_from: place < to, loop_to: place > from }[name];
}
