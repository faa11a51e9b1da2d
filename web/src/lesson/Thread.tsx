import { Link } from "react-router";

import type { Standing } from "../api/client";
import { TARGET } from "./LessonScreen";
import { YOU } from "./together";

interface Props {
  titles: string[];
  /** Whether each is extra. */
  extra: boolean[];
  /** Whether something is to be decided in each. */
  asks?: boolean[];
  /** Who else is at each. */
  others?: string[][];
  place: number;
  /** How far one has been, where that is known. */
  reached?: number | undefined;
  /** How far one has come with each by one's own hand. */
  standings?: (Standing["state"] | undefined)[];
  /** Whether the lesson opens with its target. */
  targetFirst: boolean;
  to: (place: number) => string;
  onAdd?: () => void;
}

/** The steps of the lesson, one below the other along a thread. */
export function Thread({
  titles,
  extra,
  asks = [],
  others = [],
  place,
  reached = place,
  standings = [],
  targetFirst,
  to,
  onAdd,
}: Props) {
  /** Tells what the circle shows by its colour: where one has been beyond the place where one is. */
  const been = (number: number) => (number > place && number <= reached ? " (you have been here)" : "");
  return (
    <nav aria-label="Steps" className="w-14 shrink-0 overflow-y-auto border-r border-rule py-4">
      <ol className="relative flex flex-col items-center gap-3 before:absolute before:inset-y-2 before:left-1/2 before:border-l before:border-rule">
        {targetFirst && titles.length > 0 && <Aim to={to(TARGET)} here={place === TARGET} />}
        {titles.map((title, number) => (
          <li key={number} className="relative">
            <Link
              to={to(number)}
              title={`${title}${remarks(extra[number], asks[number], others[number])}${been(number)}${STANDINGS[standings[number] ?? "opened"]}`}
              aria-label={`Step ${number + 1}: ${title}${remarks(extra[number], asks[number], others[number])}${been(number)}${STANDINGS[standings[number] ?? "opened"]}`}
              aria-current={number === place ? "step" : undefined}
              className={`grid size-7 place-items-center rounded-full border ${extra[number] ? "border-dashed" : ""} ${circle(number, place, reached)}`}
            >
              {number + 1}
              {standings[number] === "done" && <Badge sign="✓" look="-right-1.5 -bottom-1.5 bg-ok" />}
              {asks[number] && <Badge sign="?" look="-top-1.5 -right-2 bg-warn" />}
              <Who names={others[number] ?? []} />
            </Link>
          </li>
        ))}
        {onAdd && <AddStep onAdd={onAdd} />}
      </ol>
    </nav>
  );
}

const Aim = ({ to, here }: { to: string; here: boolean }) => (
  <li className="relative">
    <Link
      to={to}
      title="Where we are heading"
      aria-label="The aim: where we are heading"
      aria-current={here ? "step" : undefined}
      className={`grid h-7 w-9 place-items-center rounded-sm border font-read text-note italic ${
        here ? "border-ink bg-ink text-leaf" : "border-ink bg-paper"
      }`}
    >
      aim
    </Link>
  </li>
);

const AddStep = ({ onAdd }: { onAdd: () => void }) => (
  <li className="relative">
    <button
      type="button"
      aria-label="Add a step after this one"
      title="Add a step after this one"
      className="grid size-7 place-items-center rounded-full border border-dashed border-firm bg-paper text-read leading-none text-soft hover:border-ink hover:text-ink"
      onClick={onAdd}
    >
      +
    </button>
  </li>
);

/** Who else is at a step. */
const Who = ({ names }: { names: string[] }) =>
  names.length > 0 && (
    <span
      aria-hidden="true"
      data-who={initials(names)}
      className="absolute -right-2.5 -bottom-2 rounded-full border border-leaf bg-this px-1 text-note leading-4 font-semibold text-leaf before:content-[attr(data-who)]"
    />
  );

/** A small sign at the edge of a step's circle. */
const Badge = ({ sign, look }: { sign: string; look: string }) => (
  <span
    aria-hidden="true"
    className={`absolute grid size-4 place-items-center rounded-full text-note font-bold text-leaf ${look}`}
  >
    {sign}
  </span>
);

const STANDINGS: Record<Standing["state"], string> = { opened: "", near: " (near)", done: " (done)" };

const remarks = (extra = false, asks = false, others: string[] = []) =>
  `${extra ? " (extra)" : ""}${asks ? ": something is to be decided" : ""}${others.length > 0 ? ` (here too: ${others.join(", ")})` : ""}`;

/** Who is at a step, in the room that there is for it. */
const initials = (names: string[]) => {
  const [name = ""] = names;
  if (names.length > 1) return String(names.length);
  if (name === YOU) return "you";
  const words = name.split(/\s+/).map((word) => word.slice(0, 1).toUpperCase());
  return [words[0], ...words.slice(1).slice(-1)].join("");
};

function circle(number: number, place: number, reached: number): string {
  if (number === place) return "border-ink bg-ink font-semibold text-leaf";
  return number <= reached ? "border-ink bg-paper" : "border-firm bg-paper text-soft";
}
