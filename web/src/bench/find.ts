import type { ModuleType } from "../api/client";

/** Words that say nothing about what is looked for. */
const EMPTY = new Set(
  "a an i it its the to of my me make makes more sound sounds want with and be is that this".split(" "),
);

const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}-]+/u)
    .filter(Boolean);

/** Words as they are compared, however they are spelt: low pass, low-pass and lowpass are one. */
const joined = (text: string) => text.toLowerCase().replaceAll(/[\s-]+/g, "");

/**
 * How well a module type fits what somebody has typed: its name, the words that people use for it, its purpose.
 * Zero if it does not.
 */
export function fitOf(type: ModuleType, typed: string): number {
  const asked = wordsOf(typed);
  const telling = asked.filter((word) => !EMPTY.has(word));
  if (asked.length === 0) return 1;
  const whole = joined(typed);
  if (joined(type.title) === whole || type.words.some((word) => joined(word) === whole)) return 100;
  const scores = (telling.length > 0 ? telling : asked).map((word) => scoreOf(type, word));
  return scores.includes(0) ? 0 : scores.reduce((sum, score) => sum + score, 0) / scores.length;
}

function scoreOf(type: ModuleType, word: string): number {
  if (type.title.toLowerCase().startsWith(word)) return 50;
  if (type.words.includes(word)) return 40;
  const stem = word.length > 4 ? word.slice(0, word.length - 2) : word;
  if (type.words.some((one) => one.startsWith(word))) return 30;
  if (type.words.some((one) => wordsOf(one).some((part) => part.startsWith(stem)))) return 20;
  return wordsOf(type.summary).some((one) => one.startsWith(stem)) ? 5 : 0;
}
