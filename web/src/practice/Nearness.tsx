import type { Figure, SoundNear } from "../api/client";
import { withUnit } from "../ui/units";

/** How far a figure is drawn: so many times what counts as the same. */
const FARTHEST = 4;

/** How near a sound is: in words, and by each of its figures on a ruler of its own. */
export function SoundNearness({ sound }: { sound: SoundNear }) {
  if (sound.cannot_tell !== null)
    return (
      <p className="mt-1.5 border-l-3 border-warn pl-2 font-read text-read">
        It cannot be told. {sound.cannot_tell}
      </p>
    );
  const measured = sound.figures.filter((one) => one.value !== null);
  const off = measured.filter((one) => !isSame(one));
  const same = measured.filter(isSame);
  return (
    <>
      {off.map((one) => (
        <FigureRuler key={one.name} figure={one} />
      ))}
      {same.length > 0 && (
        <p className="mt-2 text-note text-soft first-letter:uppercase">
          {off.length > 0 ? same.map((one) => one.words).join(", ") : "pitch, partials, envelope, spectrum"}:
          the same.
        </p>
      )}
    </>
  );
}

const isSame = ({ value, limit }: Figure) => value !== null && Math.abs(value) <= limit;

/** One figure: the target, the zone that counts as the same, and where one stands. */
function FigureRuler({ figure: { words, unit, value, said, limit } }: { figure: Figure }) {
  if (value === null) return null;
  const signed = unit === "cents";
  const [low, high] = signed ? [-FARTHEST, FARTHEST] : [0, FARTHEST];
  const at = (many: number) => `${(100 * (Math.min(high, Math.max(low, many)) - low)) / (high - low)}%`;
  const beyond = Math.abs(value) > FARTHEST * limit;
  return (
    <div
      className="mt-2"
      role="img"
      aria-label={`${words}: ${said}; the same up to ${withUnit(limit, unit)}`}
    >
      <div className="flex items-baseline justify-between gap-2">
        <span className="first-letter:uppercase">{words}</span>
        <b className="text-right font-semibold text-warn">{said}</b>
      </div>
      <div className="relative mt-0.5 h-5">
        <div className="absolute inset-x-0 top-2.5 border-t-[1.5px] border-ink" />
        <div
          className="absolute top-1 h-3 bg-ok/25"
          style={{ left: at(signed ? -1 : 0), width: `${100 / FARTHEST}%` }}
        />
        <div className="absolute top-0.5 h-4 border-l-2 border-compared" style={{ left: at(0) }} />
        <div
          className="absolute top-0 size-0 -translate-x-1/2 border-x-6 border-t-8 border-x-transparent border-t-this"
          style={{ left: at(value / limit) }}
        />
        {beyond && (
          <span
            aria-hidden="true"
            className={`absolute top-2 text-note leading-none font-bold text-this ${value > 0 ? "right-0" : "left-0"}`}
          >
            {value > 0 ? "»" : "«"}
          </span>
        )}
      </div>
    </div>
  );
}
