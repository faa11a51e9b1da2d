/**
 * Which note a letter plays. The rows go in whole tones, and each row lies a semitone beside the one below: so a chord or
 * a scale has the same shape wherever it begins (P. von Jankó's keyboard of 1882). The upper two rows go on an octave
 * higher.
 */
const ROWS: [first: number, codes: string[]][] = [
  [0, ["KeyZ", "KeyX", "KeyC", "KeyV", "KeyB", "KeyN", "KeyM", "Comma", "Period", "Slash"]],
  [-1, ["KeyA", "KeyS", "KeyD", "KeyF", "KeyG", "KeyH", "KeyJ", "KeyK", "KeyL", "Semicolon", "Quote"]],
  [10, ["KeyQ", "KeyW", "KeyE", "KeyR", "KeyT", "KeyY", "KeyU", "KeyI", "KeyO", "KeyP", "BracketLeft"]],
  [11, ["Digit2", "Digit3", "Digit4", "Digit5", "Digit6", "Digit7", "Digit8", "Digit9", "Digit0"]],
];

const NOTES = new Map(ROWS.flatMap(([first, codes]) => codes.map((code, n) => [code, first + 2 * n])));
const SIGNS: Record<string, string> = {
  Comma: ",",
  Period: ".",
  Slash: "/",
  Semicolon: ";",
  Quote: "'",
  BracketLeft: "[",
};

/** How many semitones above the lowest C a letter plays; nothing where it plays none. */
export const noteOf = (code: string): number | undefined => NOTES.get(code);

/** The letters that play each note, from the lowest C on. */
export const LETTERS: ReadonlyMap<number, string> = new Map(
  [...NOTES].toReversed().map(([code, note]) => [note, SIGNS[code] ?? code.replace(/Key|Digit/, "")]),
);
