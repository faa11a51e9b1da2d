import type { ChoiceType, ModuleType } from "../api/client";

/** Words that say nothing about what is looked for. */
const EMPTY = new Set(
  "a an i it its the to of my me make makes more sound sounds want with and be is that this".split(" "),
);

const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}-]+/u)
    .filter(Boolean);

const WISHED = 45;

/** Words as they are compared, however they are spelt: low pass, low-pass and lowpass are one. */
const joined = (text: string) => text.toLowerCase().replaceAll(/[\s-]+/g, "");

/** What is asked for of a module besides its type: an option of one of its choices, as in “square” or “high-pass”. */
export interface Wish {
  setting: string;
  option: string;
  /** The option as people read it. */
  shown: string;
}

interface Asked {
  wish: Wish;
  /** What else was typed. */
  rest: string[];
}

const isWord = (option: string) => /\p{L}{3}/u.test(option) && !["off", "low", "all"].includes(option);

/** Finds the option of a module's choices that is asked for by one or two of the words, the first that fits. */
export function wishIn(type: ModuleType, typed: string): Asked | undefined {
  const asked = wordsOf(typed);
  for (const count of [2, 1])
    for (const place of asked.keys()) {
      const part = asked.slice(place, place + count);
      const rest = asked.filter((_, at) => at < place || at >= place + count);
      const wish = part.length === count ? optionOf(type.choices, joined(part.join(" "))) : undefined;
      if (wish) return { wish, rest: rest.filter((word) => word !== wish.setting) };
    }
  return undefined;
}

function optionOf(choices: ChoiceType[], wanted: string): Wish | undefined {
  for (const { name, options, words } of choices)
    for (const [place, option] of options.map(String).entries()) {
      const shown = words[place] ?? option;
      if (isWord(option) && [option, shown].some((one) => joined(one) === wanted))
        return { setting: name, option, shown };
    }
  return undefined;
}

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
  const wished = wishIn(type, typed);
  if (wished) {
    const others = wished.rest.filter((word) => !EMPTY.has(word)).map((word) => scoreOf(type, word));
    if (!others.includes(0)) return WISHED;
  }
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
