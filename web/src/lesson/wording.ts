import type { Instruction } from "../api/client";

type Fact = Instruction["facts"][number];

const NAMED = /\{([a-z][a-z0-9_]*)\}/g;
const BRACED = /\{([^{}]*)\}/g;

/** How an instruction is worded, with its facts in braces as they read now: “Turn {Bell mouth} down to {420 Hz}.” */
export function wordsOf(instruction: Instruction): string {
  const { wording, facts, parts } = instruction;
  if (wording === null)
    return parts.map((part) => (part.role === "plain" ? part.text : `{${part.text}}`)).join("");
  return wording.replace(NAMED, (whole, name: string) => {
    const fact = facts.find((one) => one.fact === name);
    return fact ? `{${fact.text}}` : whole;
  });
}

export type Read = { text: string } | { trouble: string };

/** What was typed, with the facts by their names; or what is wrong with it: every value has to be in it, and no other. */
export function readWords(typed: string, facts: Fact[]): Read {
  if (!typed.trim()) return { trouble: "Write something." };
  const used = new Set<string>();
  let unknown: string | undefined;
  const text = typed.trim().replace(BRACED, (whole, fact: string) => {
    const meant = facts.filter((one) => one.text === fact.trim());
    const found = meant.find((one) => !used.has(one.fact)) ?? meant[0];
    if (!found) {
      unknown ??= whole;
      return whole;
    }
    used.add(found.fact);
    return `{${found.fact}}`;
  });
  if (unknown !== undefined) return { trouble: `${unknown} is no fact of this instruction.` };
  const missing = facts.find((one) => one.role === "value" && !used.has(one.fact));
  return missing ? { trouble: `{${missing.text}} must stay in it.` } : { text };
}
