import type { Module, Patch, RulerType } from "../api/client";
import { type Catalogue, rulerBeside, settingOf } from "../api/patch";
import { trimmed, withUnit } from "../ui/units";
import { between, type Point } from "./phrases";

/** What a gesture moves, and how its positions read: those of a lever in the lever's own range. */
export interface Control {
  control: string;
  name: string;
  ruler: RulerType;
  /** Where it stands as long as nothing has moved it. */
  rest: number;
  valueAt: (position: number) => number;
  positionOf: (value: number) => number;
}

const percent = (control: string, name: string, low: number): Control => ({
  control,
  name,
  ruler: { unit: "%", low, high: 100, default: 0, step: 0.1, travel: "linear" },
  rest: 0,
  valueAt: (position) => 100 * position,
  positionOf: (value) => value / 100,
});

const WHEELS = [percent("wheel", "Wheel", 0), percent("bend", "Bend", -100)];

export const controlsOf = (patch: Patch, catalogue: Catalogue): Control[] => [
  ...WHEELS,
  ...patch.modules.filter((one) => one.type === "lever").map((one) => leverOf(one, catalogue)),
];

function leverOf(module: Module, catalogue: Catalogue): Control {
  const type = catalogue.get(module.type);
  const number = type?.numbers.find((one) => one.name === "value");
  const plain = { control: `lever:${module.id}`, name: module.label || "Lever" };
  if (!type || !number) return { ...percent(plain.control, plain.name, 0) };
  const [low = 0, high = 0, step = 0, value = 0] = ["low", "high", "step", "value"].map((name) =>
    Number(settingOf(module, type, name)),
  );
  const track = { low, high, log: settingOf(module, type, "travel") === "log" && low > 0 && high > 0 };
  return {
    ...plain,
    ruler: rulerBeside(module, type, number),
    rest: positionOf(value, track),
    valueAt: (position) => notched(valueAt(position, track), low, high, step),
    positionOf: (wanted) => positionOf(wanted, track),
  };
}

/** The way of a lever from one end to the other; it may be turned over. */
interface Track {
  low: number;
  high: number;
  log: boolean;
}

// what a lever puts out at a position, and back: as the lever itself has it

const valueAt = (position: number, { low, high, log }: Track): number =>
  log ? low * (high / low) ** position : low + (high - low) * position;

function positionOf(value: number, { low, high, log }: Track): number {
  if (low === high) return 0;
  const place =
    log && value > 0 ? Math.log(value / low) / Math.log(high / low) : (value - low) / (high - low);
  return between(place, 0, 1);
}

/** The nearest notch from the low end, in the range. */
function notched(value: number, low: number, high: number, step: number): number {
  const near = step > 0 ? low + step * roundEven((value - low) / step) : value;
  return between(near, Math.min(low, high), Math.max(low, high));
}

/** The nearest whole number, and of two the even one. */
function roundEven(value: number): number {
  const near = Math.round(value);
  return Math.abs(value % 1) === 0.5 && near % 2 !== 0 ? near - 1 : near;
}

/** What a gesture moves; the lever may have gone from the patch. */
export const controlNamed = (control: string, patch: Patch, catalogue: Catalogue): Control =>
  controlsOf(patch, catalogue).find((one) => one.control === control) ??
  percent(control, control.replace("lever:", ""), 0);

export const pointWords = ({ beat, value }: Point, { ruler, valueAt }: Control): string =>
  `${withUnit(valueAt(value), ruler.unit)} at beat ${trimmed(beat + 1, 4)}`;
