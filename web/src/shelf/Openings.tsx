import { useNavigate } from "react-router";

import { client, got } from "../api/client";
import { useTemplates } from "../api/queries";
import { messageOf } from "../api/messageOf";

/** What an educator without a lesson is invited to: openings that can be heard at once, each begun with one press. */
export function Openings({ onFailure }: { onFailure: (message: string) => void }) {
  const templates = useTemplates().data ?? [];
  const navigate = useNavigate();
  const begin = (template: string, title: string) =>
    got(client.POST("/api/lessons", { body: { title, summary: "", template } })).then(
      (lesson) => navigate(`/desk/${lesson.id}/1`),
      (error: unknown) => onFailure(messageOf(error)),
    );
  return (
    <section aria-label="Begin your first lesson" className="mb-10">
      <p className="mb-4 max-w-xl font-read text-read">
        Your shelf is still empty. Begin with one of these: it can be heard at once, and what you build
        further writes the next steps. Or give your lesson a title below.
      </p>
      <ul className="grid grid-cols-2 gap-3 narrow:grid-cols-1">
        {templates
          .filter(({ id }) => id !== "empty")
          .map(({ id, title, summary }) => (
            <li key={id}>
              <button
                type="button"
                className="h-full w-full rounded border border-firm bg-leaf px-4 py-3 text-left hover:border-ink"
                onClick={() => void begin(id, title)}
              >
                <span className="block font-read text-read font-semibold">{title}</span>
                <span className="mt-0.5 block text-soft">{summary}</span>
              </button>
            </li>
          ))}
      </ul>
    </section>
  );
}
