import { Link } from "react-router";

import type { FoundStep } from "../api/client";
import { useSearch } from "../api/queries";
import { Excerpt } from "../lesson/Excerpt";

/** The steps in which all words stand, by lesson. */
export function Found({ words }: { words: string }) {
  const { found, busy } = useSearch(words);
  const lessons = [...new Set(found.map((one) => one.lesson))];
  return (
    <section aria-label="What was found" aria-busy={busy}>
      {lessons.map((lesson) => (
        <FoundLesson key={lesson} steps={found.filter((one) => one.lesson === lesson)} />
      ))}
      {found.length === 0 && (
        <p role="status" className="font-read text-read text-soft italic">
          {busy ? "Looking…" : "No step of your lessons has all these words."}
        </p>
      )}
    </section>
  );
}

function FoundLesson({ steps }: { steps: FoundStep[] }) {
  return (
    <div className="border-t border-rule py-4">
      <h2 className="mb-2 font-read text-head font-semibold">{steps[0]?.lesson_title}</h2>
      <ul>
        {steps.map((one) => (
          <li key={one.step} className="mb-2" data-found={one.step}>
            <Link to={`/desk/${one.lesson}/${one.place + 1}`} className="link">
              Step {one.place + 1}: {one.title}
            </Link>
            <Excerpt pieces={one.excerpt} />
          </li>
        ))}
      </ul>
    </div>
  );
}
