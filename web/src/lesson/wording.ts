import type { Instruction } from "../api/client";

type Fact = Instruction["facts"][number];

const NUMBERED = /\{(\d+)\}/g;
const BRACED = /\{([^{}]*)\}/g;

/** How an instruction is worded, with its facts in braces as they read now: “Turn {Bell mouth} down to {420 Hz}.” */
export function wordsOf(instruction: Instruction): string {
  const { wording, facts, parts } = instruction;
  if (wording === null)
    return parts.map((part) => (part.role === "plain" ? part.text : `{${part.text}}`)).join("");
  return wording.replace(NUMBERED, (_, number: string) => `{${facts[Number(number) - 1]?.text ?? ""}}`);
}

export type Read = { text: string } | { trouble: string };

/** What was typed, with the facts as numbers; or what is wrong with it: every value has to be in it, and no other. */
export function readWords(typed: string, facts: Fact[]): Read {
  if (!typed.trim()) return { trouble: "Write something." };
  const used = new Set<number>();
  let unknown: string | undefined;
  const text = typed.trim().replace(BRACED, (whole, fact: string) => {
    const free = facts.findIndex((one, place) => one.text === fact.trim() && !used.has(place));
    const place = free >= 0 ? free : facts.findIndex((one) => one.text === fact.trim());
    if (place < 0) {
      unknown ??= whole;
      return whole;
    }
    used.add(place);
    return `{${place + 1}}`;
  });
  if (unknown !== undefined) return { trouble: `${unknown} is no fact of this instruction.` };
  const missing = facts.find((fact, place) => fact.role === "value" && !used.has(place));
  return missing ? { trouble: `{${missing.text}} must stay in it.` } : { text };
}
