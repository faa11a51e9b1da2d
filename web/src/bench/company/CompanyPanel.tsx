import type { CompanyPart, Phrase, RulerType } from "../../api/client";
import { useBench } from "../BenchContext";
import { NumberEntry } from "../../ui/NumberEntry";
import { Ruler } from "../../ui/Ruler";
import { noteName, trimmed } from "../../ui/units";
import { AddPart } from "./AddPart";

const LEVEL: RulerType = { low: -60, high: 12, default: 0, unit: "dB", step: 0.5, travel: "linear" };
const PAN: RulerType = { low: -1, high: 1, default: 0, unit: "", step: 0.01, travel: "linear" };
const MOST = 6;

/** Those who sound together with the phrase: how loud, where, and which of them. */
export function CompanyPanel() {
  const { phrase, writing, moves } = useBench();
  const { company } = phrase;
  const put = writing
    ? (parts: CompanyPart[], kind?: string) => moves.play({ ...phrase, company: parts }, kind)
    : undefined;
  const change = (place: number, part: Partial<CompanyPart>, kind: string) =>
    put?.(
      company.map((one, n) => (n === place ? { ...one, ...part } : one)),
      `company ${place} ${kind}`,
    );
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-company={company.length}>
      {company.length === 0 && (
        <p className="max-w-2xl font-read text-read">
          Nobody sounds together with this phrase. In company one hears where a sound sits: what it carries,
          and where it is covered.{!put && " This step has none."}
        </p>
      )}
      {company.map((part, place) => (
        <PartRow
          key={part.id}
          part={part}
          phrase={phrase}
          onChange={put && ((what, kind) => change(place, what, kind))}
          onRemove={put && (() => put(company.filter((one) => one !== part)))}
        />
      ))}
      {put && company.length < MOST && (
        <AddPart onAdd={(part) => put([...company, withFreeId(part, company)])} />
      )}
    </div>
  );
}

/** A part under an id that no other has. */
function withFreeId(part: CompanyPart, company: CompanyPart[]): CompanyPart {
  const taken = (id: string) => company.some((one) => one.id === id);
  let id = part.id;
  for (let n = 2; taken(id); n++) id = `${part.id}-${n}`;
  return { ...part, id };
}

interface RowProps {
  part: CompanyPart;
  phrase: Phrase;
  onChange: ((part: Partial<CompanyPart>, kind: string) => void) | undefined;
  onRemove: (() => void) | undefined;
}

function PartRow({ part, phrase, onChange, onRemove }: RowProps) {
  const { state } = useBench();
  const alone = state.partAlone === part.id;
  const quiet = part.muted || (state.partAlone !== undefined && !alone);
  return (
    <article
      data-part={part.id}
      className="grid grid-cols-[minmax(150px,1fr)_auto_minmax(140px,220px)_minmax(120px,180px)_auto_auto] items-center gap-x-5 border-b border-rule py-1 narrow:grid-cols-2"
    >
      <div className={`min-w-0 ${quiet ? "text-soft" : ""}`}>
        <p className="truncate font-read text-read font-medium">{part.name}</p>
        <p className="truncate text-soft">{playsText(part, phrase)}</p>
      </div>
      <div className="flex gap-1">
        <Toggle
          word="Mute"
          pressed={part.muted}
          onClick={onChange && (() => onChange({ muted: !part.muted }, "muted"))}
        />
        <Toggle word="Alone" pressed={alone} onClick={() => state.hearPart(alone ? undefined : part.id)} />
      </div>
      <Ruler
        label="level"
        help="How loud it is in the company"
        ruler={LEVEL}
        value={part.level}
        before={undefined}
        moved={undefined}
        onChange={onChange && ((level) => onChange({ level }, "level"))}
      />
      <Ruler
        label="pan"
        help="From left, −1, to right, 1"
        ruler={PAN}
        value={part.pan}
        before={undefined}
        moved={undefined}
        onChange={onChange && ((pan) => onChange({ pan }, "pan"))}
      />
      <Fades part={part} beats={phrase.beats} onChange={onChange} />
      {onRemove && (
        <button type="button" className="act-away whitespace-nowrap" onClick={onRemove}>
          Take out
        </button>
      )}
    </article>
  );
}

function Toggle({
  word,
  pressed,
  onClick,
}: {
  word: string;
  pressed: boolean;
  onClick: (() => void) | undefined;
}) {
  return (
    <button
      type="button"
      aria-pressed={pressed}
      disabled={!onClick}
      className={`rounded border px-2 py-0.5 ${pressed ? "border-this bg-this-wash font-semibold text-this" : "border-rule text-soft"}`}
      onClick={onClick}
    >
      {word}
    </button>
  );
}

/** Over how many beats a part comes in and goes out. */
function Fades({
  part,
  beats,
  onChange,
}: {
  part: CompanyPart;
  beats: number;
  onChange: RowProps["onChange"];
}) {
  const ruler: RulerType = { low: 0, high: beats, default: 0, unit: "beat", step: 0.25, travel: "linear" };
  const fields = [
    ["Fades in", "fade_in"],
    ["Fades out", "fade_out"],
  ] as const;
  return (
    <div className="w-36">
      {fields.map(([label, name]) => (
        <div key={name} className="flex items-baseline justify-between gap-2">
          <span className="whitespace-nowrap text-soft">{label}</span>
          <NumberEntry
            label={`${part.name}: ${label.toLowerCase()}`}
            ruler={ruler}
            value={part[name]}
            onCommit={onChange && ((value) => onChange({ [name]: value }, name))}
          />
        </div>
      ))}
    </div>
  );
}

/** What a part plays, in a few words. */
function playsText({ phrase: own }: CompanyPart, phrase: Phrase): string {
  const names = [...new Set(own.notes.map((note) => noteName(note.pitch)))];
  const notes =
    names.length === 0 ? "by itself" : names.slice(0, 5).join(" ") + (names.length > 5 ? " …" : "");
  const again = own.beats < phrase.beats ? `, every ${trimmed(own.beats)} beats` : "";
  return `${notes}${again}`;
}
