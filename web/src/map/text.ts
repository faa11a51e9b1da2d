/** How wide a text is in pixels, as the browser would set it. */
export function widthOf(text: string, font: string): number {
  const key = `${font}|${text}`;
  const known = widths.get(key);
  if (known !== undefined) return known;
  const pen = penOf();
  if (!pen) return text.length * LETTER;
  pen.font = font;
  const width = pen.measureText(text).width;
  if (widths.size > MOST_KNOWN) widths.clear();
  widths.set(key, width);
  return width;
}

let context: CanvasRenderingContext2D | null | undefined;
/** Where nothing can be drawn, every letter is as wide as a wide one. */
const LETTER = 8;
const widths = new Map<string, number>();
const MOST_KNOWN = 5000;

/** What was measured before the typefaces had come is measured anew. */
export const forgetWidths = (): void => widths.clear();

const READ = '"Literata Variable", Georgia, serif';
const WORK = '"Instrument Sans Variable", system-ui, sans-serif';

function penOf(): CanvasRenderingContext2D | null {
  if (typeof document === "undefined") return null;
  return (context ??= document.createElement("canvas").getContext("2d"));
}

/** The typefaces of the map. */
export const readFont = (size: number, weight = 500) => `${weight} ${size}px ${READ}`;
export const workFont = (size: number, weight = 400) => `${weight} ${size}px ${WORK}`;

/** In what a text is set: a size of the typeface that is read, or of the narrow one. */
export interface Type {
  size: number;
  narrow: boolean;
}

const fontOf = ({ size, narrow }: Type) => (narrow ? `600 condensed ${size}px ${WORK}` : readFont(size, 600));

export interface Lines extends Type {
  lines: string[];
}

/** A text set into some width: as large as it fits on one line, else on several, broken between words. */
export function setInto(text: string, width: number, types: Type[], most: (type: Type) => number): Lines {
  const fits = (type: Type) => (line: string) => widthOf(line, fontOf(type)) <= width;
  for (const several of [false, true]) {
    for (const type of types) {
      const lines = several ? broken(text, fits(type)) : [text];
      if (lines.length <= most(type) && lines.every(fits(type))) return { ...type, lines };
    }
  }
  const last = types.at(-1) ?? { size: 11, narrow: true };
  return { ...last, lines: shortened(broken(text, fits(last)), most(last), fits(last)) };
}

function broken(text: string, fits: (line: string) => boolean): string[] {
  const lines: string[] = [];
  for (const word of text.split(/\s+/)) {
    const last = lines.at(-1);
    if (last !== undefined && fits(`${last} ${word}`)) lines[lines.length - 1] = `${last} ${word}`;
    else lines.push(word);
  }
  return lines;
}

/** So many lines; what is left out is marked, and no line is wider than it may be. */
function shortened(lines: string[], most: number, fits: (line: string) => boolean): string[] {
  const kept = lines.slice(0, most);
  return kept.map((line, n) => {
    const whole = n < most - 1 || lines.length <= most;
    if (whole && fits(line)) return line;
    let text = line;
    while (text.length > 1 && !fits(`${text}…`)) text = text.slice(0, -1);
    return `${text.trimEnd()}…`;
  });
}
