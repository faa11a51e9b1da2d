import type { Module, Patch, RulerType } from "../api/client";
import { type Catalogue, rulerBeside, settingOf } from "../api/patch";
import { travelOf } from "../ui/travel";
import { trimmed, withUnit } from "../ui/units";
import type { Point } from "./phrases";

/** What a gesture moves, and how its positions read: those of a lever in the lever's own range. */
export interface Control {
  control: string;
  name: string;
  ruler: RulerType;
  valueAt: (position: number) => number;
  positionOf: (value: number) => number;
}

const percent = (control: string, name: string, low: number): Control => ({
  control,
  name,
  ruler: { unit: "%", low, high: 100, default: 0, step: 0.1, travel: "linear" },
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
  const ruler = rulerBeside(module, type, number);
  const turned = Number(settingOf(module, type, "low")) > Number(settingOf(module, type, "high"));
  const way = (position: number) => (turned ? 1 - position : position);
  const { place, value } = travelOf(ruler);
  return {
    ...plain,
    ruler,
    valueAt: (position) => value(way(position)),
    positionOf: (wanted) => way(place(wanted)),
  };
}

/** What a gesture moves; the lever may have gone from the patch. */
export const controlNamed = (control: string, patch: Patch, catalogue: Catalogue): Control =>
  controlsOf(patch, catalogue).find((one) => one.control === control) ??
  percent(control, control.replace("lever:", ""), 0);

export const pointWords = ({ beat, value }: Point, { ruler, valueAt }: Control): string =>
  `${withUnit(valueAt(value), ruler.unit)} at beat ${trimmed(beat + 1, 4)}`;
