import type { KeyboardEvent } from "react";

import type { Card } from "./layout";

const ARROWS: Record<string, [x: number, y: number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

/** The arrow keys go from card to card, Enter and the space bar select. */
export function keyed(
  event: KeyboardEvent,
  card: Card,
  cards: Card[],
  select: (id: string, more: boolean) => void,
  focusCard: (id: string) => void,
): void {
  const way = ARROWS[event.key];
  const next = way && nearest(cards, card, way);
  if (next) {
    select(next.id, event.shiftKey);
    focusCard(next.id);
  } else if (event.key === "Enter" || event.key === " ") select(card.id, false);
  else if (!way) return;
  event.preventDefault();
  event.stopPropagation();
}

const AHEAD = 15;

/** The card that lies nearest in a direction. */
function nearest(cards: Card[], from: Card, [x, y]: [number, number]): Card | undefined {
  const ahead = (card: Card) => (card.x - from.x) * x + (card.y - from.y) * y;
  const aside = (card: Card) => Math.abs((card.x - from.x) * y) + Math.abs((card.y - from.y) * x);
  const cost = (card: Card) => ahead(card) + 2.5 * aside(card);
  return cards.filter((card) => ahead(card) > AHEAD).toSorted((a, b) => cost(a) - cost(b))[0];
}
