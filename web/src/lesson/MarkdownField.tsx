import { useState } from "react";
import Markdown from "react-markdown";

interface Props {
  label: string;
  text: string;
  placeholder: string;
  className: string;
  onChange: ((text: string) => void) | undefined;
}

/** A text in Markdown: read as it is set, written as it is typed. */
export function MarkdownField({ label, text, placeholder, className, onChange }: Props) {
  const [writing, setWriting] = useState(false);
  if (onChange && writing) {
    return (
      <textarea
        aria-label={label}
        autoFocus
        rows={8}
        className={`field-sizing-content min-h-24 w-full rounded border border-firm bg-leaf p-2 ${className}`}
        value={text}
        onChange={(event) => onChange(event.target.value)}
        onBlur={() => setWriting(false)}
        onKeyDown={(event) => {
          if (event.key === "Escape") setWriting(false);
        }}
      />
    );
  }
  return (
    <div className="group relative">
      <div className={`prose ${className}`}>
        {text ? <Markdown>{text}</Markdown> : onChange && <p className="text-soft italic">{placeholder}</p>}
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
