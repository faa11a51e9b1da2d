import { useRef, useState } from "react";

import type { Fields } from "./fields";
import { type OnLink, Prose } from "./Prose";

interface Props {
  label: string;
  text: string;
  placeholder: string;
  className: string;
  fields: Fields;
  onLink?: OnLink | undefined;
  onChange: ((text: string) => void) | undefined;
}

/** A text in Markdown with live fields: read as it is set, written as it is typed. */
export function MarkdownField(props: Props) {
  const { label, text, placeholder, className, fields, onLink, onChange } = props;
  const [writing, setWriting] = useState(false);
  if (onChange && writing) return <Writing {...props} onChange={onChange} onDone={() => setWriting(false)} />;
  return (
    <div className="group relative">
      <div className={`prose ${className}`}>
        {text ? (
          <Prose text={text} fields={fields} onLink={onLink} />
        ) : (
          onChange && <p className="text-soft italic">{placeholder}</p>
        )}
      </div>
      {onChange && (
        <button
          type="button"
          aria-label={`Write: ${label}`}
          className="absolute inset-0 cursor-text rounded-sm text-right align-top hover:bg-this/5"
          onClick={() => setWriting(true)}
        />
      )}
    </div>
  );
}

interface WritingProps extends Props {
  onChange: (text: string) => void;
  onDone: () => void;
}

/** Where a text is written: what can be done with it above, and how it will read below. */
function Writing({ label, text, className, fields, onChange, onDone }: WritingProps) {
  const area = useRef<HTMLTextAreaElement>(null);
  const around = (before: string, after: string, empty: string) => {
    const field = area.current;
    if (!field) return;
    const { selectionStart: start, selectionEnd: end } = field;
    const chosen = text.slice(start, end) || empty;
    onChange(`${text.slice(0, start)}${before}${chosen}${after}${text.slice(end)}`);
    requestAnimationFrame(() => {
      field.focus();
      field.setSelectionRange(start + before.length, start + before.length + chosen.length);
    });
  };
  return (
    <div
      onBlur={(event) => {
        const here = event.currentTarget;
        // what is focused next is not always told: a list of choices opens in a window of its own
        setTimeout(() => {
          if (!here.contains(document.activeElement)) onDone();
        }, 150);
      }}
    >
      <div
        role="toolbar"
        aria-label={`For the text: ${label}`}
        className="mb-1 flex items-baseline gap-1 text-[13px]"
      >
        <Tool word="Bold" onClick={() => around("**", "**", "bold")} />
        <Tool word="Italic" onClick={() => around("*", "*", "italic")} />
        <Tool word="List" onClick={() => around("\n- ", "", "first")} />
        <Tool word="Link" onClick={() => around("[", "](https://)", "words")} />
        <select
          aria-label="Put in a live field"
          className="max-w-32 min-w-0 rounded border border-rule bg-leaf px-1"
          value=""
          onChange={(event) => around("", `{${event.target.value}}`, "")}
        >
          <option value="">Field…</option>
          {fields.offered.map((field) => (
            <option key={field}>{field}</option>
          ))}
        </select>
        <select
          aria-label="Put in a link to a picture, a detour or a module"
          className="max-w-24 min-w-0 rounded border border-rule bg-leaf px-1"
          value=""
          onChange={(event) => around("", `{${event.target.value}}`, "")}
        >
          <option value="">Point to…</option>
          {fields.links_offered.map((field) => (
            <option key={field}>{field}</option>
          ))}
        </select>
      </div>
      <textarea
        ref={area}
        aria-label={label}
        autoFocus
        rows={8}
        className={`field-sizing-content min-h-24 w-full rounded border border-firm bg-leaf p-2 ${className}`}
        value={text}
        onChange={(event) => onChange(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Escape") onDone();
        }}
      />
      {text && (
        <div
          aria-label={`Preview: ${label}`}
          role="region"
          className={`prose mt-1 border-l border-rule pl-2 ${className}`}
        >
          <Prose text={text} fields={fields} onLink={undefined} />
        </div>
      )}
    </div>
  );
}

const Tool = ({ word, onClick }: { word: string; onClick: () => void }) => (
  <button
    type="button"
    className="rounded border border-rule bg-leaf px-1.5 hover:border-firm"
    onClick={onClick}
  >
    {word}
  </button>
);
