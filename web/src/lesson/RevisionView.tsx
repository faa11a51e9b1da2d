import type { Revision } from "../api/client";

type StepRevision = Revision["steps"][number];
type TextRevision = Revision["texts"][number];

const WORDS = { added: "New", removed: "Taken out", changed: "Changed", moved: "Moved" };

/** What differs between two editions, to be read from top to bottom. */
export function RevisionView({ revision }: { revision: Revision }) {
  const { texts, notes, steps } = revision;
  if (texts.length + notes.length + steps.length === 0)
    return <p className="font-read text-read text-soft italic">Nothing differs.</p>;
  return (
    <div
      tabIndex={0}
      role="region"
      aria-label="What differs"
      className="min-h-0 flex-1 overflow-y-auto"
      data-revision
    >
      {(texts.length > 0 || notes.length > 0) && (
        <section className="mb-4">
          <h3 className="font-read text-read font-semibold">The lesson as a whole</h3>
          <Texts texts={texts} />
          <Notes notes={notes} />
        </section>
      )}
      {steps.map((step, number) => (
        <section key={number} className="mb-4 border-t border-rule pt-2" data-step-revision={step.kind}>
          <h3 className="font-read text-read font-semibold">
            <span className={step.kind === "removed" ? "text-warn" : "text-this"}>{WORDS[step.kind]}:</span>{" "}
            {step.title}
            <span className="ml-2 font-work text-work font-normal text-soft">{placesOf(step)}</span>
          </h3>
          <Texts texts={step.texts} />
          {step.instructions.length > 0 && (
            <div className="mt-1.5 grid grid-cols-[96px_1fr] gap-3">
              <span className="text-soft">The patch</span>
              <ul>
                {step.instructions.map((one, place) => (
                  <li key={place}>
                    {one.parts.map((part, n) => (
                      <span key={n} className={part.role === "value" ? "font-semibold text-this" : ""}>
                        {part.text}
                      </span>
                    ))}
                  </li>
                ))}
              </ul>
            </div>
          )}
          <Notes notes={step.notes} />
        </section>
      ))}
    </div>
  );
}

function placesOf(step: StepRevision): string {
  if (step.after === null) return `was step ${(step.before ?? 0) + 1}`;
  if (step.before === null || step.before === step.after) return `step ${step.after + 1}`;
  return `step ${step.after + 1}, was ${step.before + 1}`;
}

function Texts({ texts }: { texts: TextRevision[] }) {
  return texts.map((text) => (
    <div key={text.name} className="mt-1.5 grid grid-cols-[96px_1fr] gap-3">
      <span className="text-soft">{text.name}</span>
      <p className="font-read whitespace-pre-line">
        {text.pieces.map((piece, n) =>
          piece.kind === "old" ? (
            <del key={n} className="mr-1 text-warn decoration-warn/70">
              {piece.text}
            </del>
          ) : piece.kind === "new" ? (
            <ins key={n} className="bg-this-wash text-this no-underline">
              {piece.text}
            </ins>
          ) : (
            <span key={n}>{piece.text}</span>
          ),
        )}
      </p>
    </div>
  ));
}

function Notes({ notes }: { notes: string[] }) {
  if (notes.length === 0) return null;
  return (
    <div className="mt-1.5 grid grid-cols-[96px_1fr] gap-3">
      <span className="text-soft">Also</span>
      <ul>
        {notes.map((note) => (
          <li key={note}>{note}</li>
        ))}
      </ul>
    </div>
  );
}
