import type { Ends } from "../api/client";
import { lineKey, titleOf } from "../api/patch";
import { saysPurpose } from "./CardFace";
import { type Drawing, realEnds } from "./drawing";
import type { Line } from "./layout";
import { markOfCard, markOfLine, PurposeOnMap } from "./MapMarks";

/** What the card or line is for that is pointed at, has the focus or is chosen, if that does not stand there. */
export function Caption(drawing: Drawing) {
  const { light, line: chosen, drawn, growth } = drawing;
  const looked = light.looked ?? light.focused ?? chosen;
  const said =
    typeof looked === "string" ? cardsPurpose(looked, drawing) : looked && linesPurpose(looked, drawing);
  return said ? <PurposeOnMap {...said} drawn={drawn} scale={growth} /> : null;
}

function cardsPurpose(id: string, { drawn, marks, shown, findings }: Drawing) {
  const card = drawn.cards.find((one) => one.id === id);
  const purpose = markOfCard(marks, id)?.purpose;
  const module = shown.patch.modules.find((one) => one.id === id);
  if (!card || !purpose || !module) return undefined;
  const face = {
    title: titleOf(module, shown.catalogue),
    size: drawn.card,
    findings: findings.filter((one) => one.module === id).length,
    purpose,
  };
  if (drawn.detail === "pictures" && saysPurpose(face)) return undefined;
  return { text: purpose, at: { x: card.x, y: card.y + drawn.card.height + 5 } };
}

function linesPurpose(ends: Ends, { drawn, marks, shown }: Drawing) {
  const keys = (line: Line) => realEnds(line, shown).map(lineKey);
  const line = drawn.lines.find((one) => keys(one).includes(lineKey(ends)));
  const purpose = line && markOfLine(marks, keys(line))?.purpose;
  const end = line?.points.at(-1);
  const said = drawn.labels.some(({ key, text }) => key === line?.key && purpose && text.includes(purpose));
  return purpose && end && !said ? { text: purpose, at: { x: end.x - 60, y: end.y + 12 } } : undefined;
}
