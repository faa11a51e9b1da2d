/** Numbers with their units, as people read and type them. */

import { rules } from "../api/rules";

const NOTES = ["C", "C♯", "D", "D♯", "E", "F", "F♯", "G", "G♯", "A", "A♯", "B"];
const MINUS = "−";

/** Formatters by how many places they give: making one takes longer than using it. */
const ROUNDED = new Map<number, Intl.NumberFormat>();

function rounded(places: number): Intl.NumberFormat {
  const known = ROUNDED.get(places) ?? new Intl.NumberFormat("en", { maximumFractionDigits: places });
  ROUNDED.set(places, known);
  return known;
}

/** A number rounded to some significant digits, with a true minus sign. */
export function trimmed(value: number, digits = 3): string {
  if (value === 0) return "0";
  if (!Number.isFinite(value)) return "–";
  const places = Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(value))));
  return rounded(Math.min(places, 12)).format(value).replace("-", MINUS);
}

/** The number and the unit in which a value is best read: 0.35 s is 350 ms. */
export function inUnit(value: number, unit: string): { number: string; unit: string } {
  if (unit === "s" && Math.abs(value) < 1) return { number: trimmed(value * 1000), unit: "ms" };
  if (unit === "note") return { number: noteText(value), unit: "" };
  const rule = rules.units[unit];
  const words = Math.abs(value) === 1 ? rule?.one : rule?.many;
  return { number: trimmed(value, rule?.digits), unit: words ?? unit };
}

export function withUnit(value: number, unit: string): string {
  const text = inUnit(value, unit);
  return text.unit ? `${text.number} ${text.unit}` : text.number;
}

/** A depth with its sign, short enough to stand at a line's end. */
export function depthText(depth: number, unit: string): string {
  if (unit === "st" || unit === "oct") return `${depth >= 0 ? "+" : ""}${trimmed(depth)} ${unit}`;
  return unit ? `${depth >= 0 ? "+" : ""}${withUnit(depth, unit)}` : `× ${trimmed(depth)}`;
}

/** Short text for a ruler's tick: 2k, 0.5, 20m. */
export function tickText(value: number, unit: string): string {
  if (unit === "s" && value !== 0 && Math.abs(value) < 1) return `${trimmed(value * 1000)} ms`;
  if (unit === "s") return value === 0 ? "0" : `${trimmed(value)} s`;
  if (Math.abs(value) >= 1000) return `${trimmed(value / 1000)}k`;
  return trimmed(value);
}

export function noteName(midi: number): string {
  const nearest = Math.round(midi);
  return `${NOTES[((nearest % 12) + 12) % 12] ?? ""}${Math.floor(nearest / 12) - 1}`;
}

const frequencyOf = (midi: number) => 440 * 2 ** ((midi - 69) / 12);
export const midiOf = (frequencyHz: number) => 69 + 12 * Math.log2(frequencyHz / 440);

/** The nearest note and the distance from it in cents. */
export function noteText(midi: number): string {
  const cents = Math.round(100 * (midi - Math.round(midi)));
  if (cents === 0) return noteName(midi);
  const unit = Math.abs(cents) === 1 ? "cent" : "cents";
  return `${noteName(midi)} ${cents > 0 ? "+" : MINUS}${Math.abs(cents)} ${unit}`;
}

export const decibels = (amplitude: number) => 20 * Math.log10(Math.max(amplitude, 1e-9));

/** How a number is read. */
export interface Reading {
  /** The unit in which it stands there, where that is another one: a time in milliseconds. */
  shown?: string;
  /** Whether it is a pitch, in semitones from middle C, which can be said as a note or in hertz too. */
  pitch?: boolean;
}

const NUMBER = "[+-]?(?:\\d+\\.?\\d*|\\.\\d+)(?:e[+-]?\\d+)?";
const PLAIN = new RegExp(`^(${NUMBER})(?:\\s*/\\s*(\\d+(?:\\.\\d+)?))?\\s*([a-z%°]*)$`, "i");

/**
 * What somebody meant who typed a value: “1.5k”, “250 ms”, “−6 dB”, “A4”, “3:2”, “−1/12”, “67 %”, or a note by its name
 * or number; a rate as its time, a time as its rate, a pitch in hertz. Null if it cannot be told. A bare number is read
 * in the unit that stands beside it.
 */
export function parsed(
  text: string,
  unit: string,
  { shown = unit, pitch = false }: Reading = {},
): number | null {
  const plain = text.trim().replaceAll(MINUS, "-").replaceAll(",", "").replace(/^×\s*/, "");
  const note = NOTE.exec(plain);
  if (note && unit === "note") return noteMidi(note);
  if (note && unit === "Hz") return frequencyOf(noteMidi(note));
  if (note && pitch) return noteMidi(note) - MIDDLE_C;
  const ratio = /^(\d+(?:\.\d+)?):(\d+(?:\.\d+)?)$/.exec(plain);
  if (ratio && Number(ratio[2]) !== 0) return Number(ratio[1]) / Number(ratio[2]);
  const match = PLAIN.exec(plain);
  const over = Number(match?.[2] ?? 1);
  if (!match || over === 0) return null;
  const typedUnit = (match[3] ?? "").toLowerCase() || (shown === "ms" ? "ms" : "");
  return inUnitOf(Number(match[1]) / over, typedUnit, unit, pitch);
}

const MIDDLE_C = 60;

/** A number that was typed with a unit, in the unit in which it is kept; null where the two do not go together. */
function inUnitOf(value: number, typed: string, unit: string, pitch: boolean): number | null {
  if (typed === "") return value;
  const factor = rules.units[unit]?.typed[typed];
  if (factor !== undefined) return value * factor;
  const hertz = rules.units.Hz?.typed[typed];
  const seconds = rules.units.s?.typed[typed];
  if (pitch && hertz !== undefined && value > 0) return midiOf(value * hertz) - MIDDLE_C;
  if (unit === "s" && hertz !== undefined && value > 0) return 1 / (value * hertz);
  if (unit === "Hz" && seconds !== undefined && value > 0) return 1 / (value * seconds);
  return null;
}

/** A note as people write it, with the cents beside it: A2, f#-1, B♭3 +20 cents. */
const NOTE = /^([a-g])([#♯b♭]?)(-?\d)(?:\s*([+-]\d+)(?: ?cents?)?)?$/i;

function noteMidi(note: RegExpExecArray): number {
  const natural = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }[(note[1] ?? "c").toLowerCase()] ?? 0;
  const sharp = note[2] === "#" || note[2] === "♯" ? 1 : note[2] ? -1 : 0;
  return 12 * (Number(note[3]) + 1) + natural + sharp + Number(note[4] ?? 0) / 100;
}

const SHARPS = new Set([1, 3, 6, 8, 10]);
/** Whether a pitch is one of the upper keys of a keyboard. */
export const isSharp = (pitch: number): boolean => SHARPS.has(((Math.round(pitch) % 12) + 12) % 12);
