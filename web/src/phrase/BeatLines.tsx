interface Props {
  beats: number;
  /** Whether the beats' numbers stand above their lines. */
  numbered?: boolean;
}

const MOST_NUMBERS = 16;

/** The lines of the beats behind notes and gestures; every fourth is firm. */
export function BeatLines({ beats, numbered = false }: Props) {
  const every = 4 ** Math.ceil(Math.max(0, Math.log(beats / MOST_NUMBERS) / Math.log(4)));
  const shown = Array.from({ length: Math.ceil(beats / every) }, (_, n) => n * every);
  return shown.map((beat) => (
    <div
      key={beat}
      className={`pointer-events-none absolute inset-y-0 border-l ${
        (beat / every) % 4 === 0 ? "border-firm" : "border-rule"
      }`}
      style={{ left: `${(100 * beat) / beats}%` }}
    >
      {numbered && (
        <span className="absolute -top-4.5 left-0 -translate-x-1/2 text-note text-soft">{beat + 1}</span>
      )}
    </div>
  ));
}
