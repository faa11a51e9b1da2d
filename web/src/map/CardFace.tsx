import type { Measure, Module } from "../api/client";
import { type Catalogue, mainOutput, settingOf, split } from "../api/patch";
import { nameOf } from "../sounds/sounds";
import { decibels, trimmed } from "../ui/units";
import { CardPicture } from "./CardPicture";
import type { Size } from "./grid";
import type { Detail } from "./layout";
import type { Heard } from "./ModuleCard";
import { readable } from "./outline";
import { SECTION } from "./sections";
import { type Lines, setInto, type Type, widthOf, workFont } from "./text";

/** What a card shows of its module, and how that stands. */
export interface Face {
  module: Module;
  catalogue: Catalogue;
  title: string;
  size: Size;
  detail: Detail;
  /** By how much texts grow where the whole map is drawn smaller than it is. */
  growth: number;
  measure: Measure | undefined;
  measures: Record<string, Measure> | undefined;
  silence: string | undefined;
  isNew: boolean;
  selected: boolean;
  heard: Heard | undefined;
  /** The name of the open section that it belongs to. */
  section: string | undefined;
  findings: number;
  /** What it is for in this step. */
  purpose: string;
  lost: boolean;
}

const GREY = "var(--color-faint)";
const PAD = 8;
const AFAR_PAD = 5;
const AFAR_KIND = 11.5;
const MARK = 11;
const read = (size: number): Type => ({ size, narrow: false });
const narrow = (size: number): Type => ({ size, narrow: true });
const NAME_TYPES = [read(15), read(14), read(13), read(12), narrow(13), narrow(12)];
const AFAR_TYPES = [read(13), read(12), read(11.5), narrow(12.5), narrow(11.5), narrow(11)];
const KIND = 11.5;
const LEADING = 1.12;
const SMALLEST_PICTURE = 8;
const PURPOSE_LEADING = 13;
/** The least height of the picture beside what a card is for. */
const LEAST_BESIDE = 18;
/** A card that is lower than this spares a little everywhere. */
const LOW = 66;

/** What stands on a card: name, kind and level, and the picture of its signal; from afar the name alone. */
export function CardFace({ face }: { face: Face }) {
  return face.detail === "pictures" ? <Near face={face} /> : <Afar face={face} />;
}

/** Where all that is written on a card stands, and what room there is for its picture. */
function setOut({ title, size, findings, purpose }: Pick<Face, "title" | "size" | "findings" | "purpose">) {
  const width = size.width - 2 * PAD;
  const low = size.height < LOW;
  const types = low ? NAME_TYPES.slice(1) : NAME_TYPES;
  const name = setInto(title, width - (findings > 0 ? MARK : 0), types, () => 2);
  const above = low ? 3 : 5;
  const kindAt = above + name.lines.length * name.size * LEADING + KIND - (low ? 1.5 : 0);
  const top = kindAt + (low ? 4 : 6);
  const below = low ? 4 : 7;
  const said = purposeIn(purpose, width, size.height - top - below);
  const height = size.height - top - below - said.lines.length * PURPOSE_LEADING;
  return { width, name, above, kindAt, top, below, said, room: { width, height } };
}

/** Whether what a card is for stands on it. */
export const saysPurpose = (face: Parameters<typeof setOut>[0]): boolean =>
  setOut(face).said.lines.length > 0;

function Near({ face }: { face: Face }) {
  const { module, catalogue, measures, measure, size, isNew, selected } = face;
  const { width, name, above, kindAt, top, below, said, room } = setOut(face);
  return (
    <>
      <Name name={name} x={PAD} top={above} isNew={isNew} />
      <Kind face={face} y={kindAt} width={width} />
      {said.lines.map((line, n) => (
        <text
          key={n}
          x={PAD}
          y={size.height - below - (said.lines.length - 1 - n) * PURPOSE_LEADING}
          fontSize={KIND}
          className={`${said.narrow ? "font-work font-stretch-condensed" : "font-read"} italic`}
          fill="var(--color-ink)"
        >
          {line}
        </text>
      ))}
      {room.height >= SMALLEST_PICTURE && (
        <g transform={`translate(${PAD}, ${top})`} className="pointer-events-none" data-picture>
          <CardPicture
            module={module}
            type={catalogue.get(module.type)}
            measures={measures}
            measure={measure}
            silence={face.silence}
            room={room}
            ink={isNew || selected ? "var(--color-ink)" : GREY}
          />
        </g>
      )}
    </>
  );
}

/** What a card is for, where it has room beside a picture; else it is shown when the card has the focus. */
function purposeIn(text: string, width: number, height: number): Lines {
  const most = Math.min(2, Math.floor((height - LEAST_BESIDE) / PURPOSE_LEADING));
  const none = { lines: [], size: KIND, narrow: false };
  if (text === "" || most < 1) return none;
  const set = setInto(text, width, [read(KIND), narrow(KIND)], () => most);
  return set.lines.join(" ") === text.split(/\s+/).join(" ") ? set : none;
}

function Name({ name, x, top, isNew }: { name: Lines; x: number; top: number; isNew: boolean }) {
  return name.lines.map((line, n) => (
    <text
      key={n}
      x={x}
      y={top + (n * LEADING + 0.86) * name.size}
      fontSize={name.size}
      className={`${name.narrow ? "font-work font-stretch-condensed" : "font-read"} ${isNew || name.narrow ? "font-semibold" : "font-medium"}`}
      fill="currentColor"
    >
      {line}
    </text>
  ));
}

/** The kind at the left, the level at the right, if there is room for both; the kind goes first. */
function Kind({ face, y, width }: { face: Face; y: number; width: number }) {
  const { heard, lost, module, catalogue, measure } = face;
  const level = lost ? "" : (heard ?? levelText(module, catalogue, measure));
  const wide = (text: string, weight = 400) => widthOf(text, workFont(KIND, weight));
  const kinds = heard ? [] : kindsOf(face);
  const kind = kinds.find((one) => wide(one, lost ? 600 : 400) <= width) ?? "";
  const beside = kind === "" || wide(kind) + wide(level, heard ? 600 : 400) + 7 <= width;
  return (
    <>
      <text
        x={PAD}
        y={y}
        fontSize={KIND}
        className={`font-work ${lost ? "font-semibold" : ""}`}
        fill={lost ? "var(--color-warn)" : "var(--color-soft)"}
      >
        {kind}
      </text>
      {beside && (
        <text
          x={PAD + width}
          y={y}
          textAnchor="end"
          fontSize={KIND}
          className={`font-work ${heard ? "font-semibold" : ""}`}
          fill={heard ? "var(--color-compared-text)" : "var(--color-soft)"}
        >
          {level}
        </text>
      )}
    </>
  );
}

/** What stands beneath the name, the fullest first. */
function kindsOf({ lost, section, module, catalogue }: Face): string[] {
  if (lost) return ["the sound is lost here", "sound is lost here", "lost here"];
  const kinds = [...new Set([kindText(module, catalogue), wordOf(module, catalogue)])];
  return section ? [`${section}: ${kinds[0] ?? ""}`, ...kinds] : kinds;
}

function Afar({ face }: { face: Face }) {
  const { title, size, growth, findings, isNew, lost } = face;
  const types = AFAR_TYPES.map((one) => ({ ...one, size: one.size * growth }));
  const width = size.width - 2 * AFAR_PAD - (findings > 0 ? MARK : 0);
  const most = (type: Type) => Math.max(1, Math.floor((size.height - 2) / (type.size * LEADING)));
  const name = setInto(title, width, types, most);
  const kind = kindsOf(face)[0] ?? "";
  const height = name.lines.length * name.size * LEADING;
  const kindSize = AFAR_KIND * growth;
  const hasKind =
    size.height >= height + kindSize + 5 && widthOf(kind, workFont(kindSize, lost ? 600 : 400)) <= width;
  const top = (size.height - height - (hasKind ? kindSize + 1 : 0)) / 2;
  return (
    <>
      <Name name={name} x={AFAR_PAD} top={top} isNew={isNew} />
      {hasKind && (
        <text
          x={AFAR_PAD}
          y={top + height + 0.9 * kindSize}
          fontSize={kindSize}
          className={`font-work ${lost ? "font-semibold" : ""}`}
          fill={lost ? "var(--color-warn)" : "var(--color-soft)"}
        >
          {kind}
        </text>
      )}
    </>
  );
}

const dbText = (level: number) => `${level > 0 ? "+" : ""}${trimmed(level)} dB`;

/** What a card is called beneath its name: the type, or what it is set to be where that says more. */
export function kindText(module: Module, catalogue: Catalogue): string {
  const type = catalogue.get(module.type);
  const slope = type?.choices.some((choice) => choice.name === "slope")
    ? ` ${settingOf(module, type, "slope")}`
    : "";
  return `${wordOf(module, catalogue)}${slope}`;
}

function wordOf(module: Module, catalogue: Catalogue): string {
  const type = catalogue.get(module.type);
  if (!type) return module.type;
  if (module.type.startsWith(SECTION)) return "section";
  const main = type.choices.find((choice) => choice.name === "wave" || choice.name === "mode");
  const sound = type.choices.find((choice) => choice.own);
  if (sound) return nameOf(String(settingOf(module, type, sound.name)));
  const word = main?.words[main.options.indexOf(settingOf(module, type, main.name))];
  return word ?? type.title.toLowerCase();
}

export function levelText(module: Module, catalogue: Catalogue, measure: Measure | undefined): string {
  const name = mainOutput(module, catalogue);
  const outputs = catalogue.get(module.type)?.outputs;
  const kind = outputs?.find((output) => name !== undefined && split(name)[1] === output.name)?.kind;
  if (!measure) return "";
  if (kind !== "audio") return readable(measure) ? `to ${trimmed(measure.greatest, 2)}` : "still";
  const peak = Math.max(Math.abs(measure.least), Math.abs(measure.greatest));
  return peak < 1e-4 ? "silent" : dbText(Math.round(decibels(peak)));
}
