import type { ReactNode, SubmitEvent } from "react";

interface Props {
  label: string;
  title: string;
  onTitle: (title: string) => void;
  /** What the button says. */
  word: string;
  onBegin: (title: string) => void;
  /** What else there is to choose before one begins. */
  children?: ReactNode;
}

/** A line in which something new gets its title, and begins. */
export function TitleEntry({ label, title, onTitle, word, onBegin, children }: Props) {
  const begin = (event: SubmitEvent) => {
    event.preventDefault();
    if (title.trim()) onBegin(title.trim());
  };
  return (
    <form className="flex flex-wrap items-end gap-4 border-t border-rule pt-5" onSubmit={begin}>
      <label className="min-w-60 flex-1">
        <span className="mb-1 block text-soft">{label}</span>
        <input
          className="w-full border-b border-firm bg-transparent py-1 font-read text-head placeholder:text-soft/70 focus:bg-leaf"
          placeholder="Its title"
          maxLength={200}
          value={title}
          onChange={(event) => onTitle(event.target.value)}
        />
      </label>
      {children}
      <button type="submit" className="button" disabled={!title.trim()}>
        {word}
      </button>
    </form>
  );
}
