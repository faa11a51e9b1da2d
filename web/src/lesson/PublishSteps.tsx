import { Link } from "react-router";

import type { Concern, Lesson } from "../api/client";

interface Props {
  lesson: Lesson;
  /** What is to be looked at, as soon as it is known. */
  concerns: Concern[] | undefined;
  /** Which of it is right as it is, and why. */
  overruled: Record<string, string>;
  onRule: (key: string, reason: string | null) => void;
  onFollow: () => void;
}

/** What will be published: every step by its title, what the short edition leaves out, and what is to be looked at. */
export function PublishSteps(props: Props) {
  const { lesson, concerns = [], onFollow } = props;
  const ofLesson = concerns.filter(({ place }) => place === null);
  return (
    <section aria-label="What will be published" data-steps>
      <Head {...props} />
      <Rulings {...props} concerns={ofLesson} />
      <ol className="border-b border-rule">
        {lesson.steps.map(({ id, content }, place) => (
          <li key={id} className="border-t border-rule py-1">
            <Link
              to={`/desk/${lesson.id}/${place + 1}`}
              className="grid grid-cols-[64px_1fr] gap-2 hover:text-this"
              onClick={onFollow}
            >
              <span className="link">Step {place + 1}</span>
              <span className="font-read">
                {content.title}
                {content.extra && <i className="text-soft"> – not in the short edition</i>}
              </span>
            </Link>
            <Rulings {...props} concerns={concerns.filter((one) => one.place === place)} />
          </li>
        ))}
      </ol>
    </section>
  );
}

/** How many steps there are, and how many things are to be looked at. */
function Head({ lesson, concerns }: Props) {
  const { length } = lesson.steps;
  const extra = lesson.steps.filter(({ content }) => content.extra).length;
  return (
    <h3 className="mb-1 font-semibold text-soft">
      {length === 1 ? "One step" : `${length} steps`}
      {extra > 0 && `, ${length - extra} of them in the short edition`}
      {concerns?.length === 0 && (
        <span className="text-ok">: the checkup has nothing to say, every step is sound</span>
      )}
      {concerns !== undefined && concerns.length > 0 && (
        <span className="text-warn">
          : {concerns.length === 1 ? "one thing" : `${concerns.length} things`} to look at
        </span>
      )}
    </h3>
  );
}

/** What is to be looked at in one place, each with the way to say that it is right. */
function Rulings({ concerns = [], overruled, onRule }: Props) {
  if (concerns.length === 0) return null;
  return (
    <ul>
      {concerns.map((one) => (
        <li key={one.key} className="grid grid-cols-[64px_1fr_190px] gap-2 py-0.5">
          <span />
          <span className={overruled[one.key] === undefined ? "text-warn" : "text-soft"}>
            {one.message} <span className="text-soft">{one.remedy}</span>
          </span>
          {one.kind !== "no-steps" && (
            <Ruling concern={one} reason={overruled[one.key]} onRule={(reason) => onRule(one.key, reason)} />
          )}
        </li>
      ))}
    </ul>
  );
}

interface RulingProps {
  concern: Concern;
  reason: string | undefined;
  onRule: (reason: string | null) => void;
}

/** Says that a concern is right as it is, and why if somebody wants to. */
function Ruling({ concern, reason, onRule }: RulingProps) {
  return (
    <div>
      <label className="flex items-baseline gap-2">
        <input
          type="checkbox"
          className="accent-ink"
          aria-label={`Right as it is: ${concern.message}`}
          checked={reason !== undefined}
          onChange={(event) => onRule(event.target.checked ? "" : null)}
        />
        Right as it is
      </label>
      {reason !== undefined && (
        <input
          aria-label={`Why it is right: ${concern.message}`}
          placeholder="because…"
          maxLength={500}
          className="mt-1 w-full rounded border border-rule bg-paper px-1.5 font-read text-work"
          value={reason}
          onChange={(event) => onRule(event.target.value)}
        />
      )}
    </div>
  );
}
