/** Where one types what one is looking for. */
export function SearchField({ words, onChange }: { words: string; onChange: (words: string) => void }) {
  return (
    <input
      type="search"
      aria-label="Search the lessons"
      placeholder="Search titles, texts, modules"
      maxLength={200}
      className="w-80 max-w-full rounded border border-firm bg-leaf px-3 py-1.5"
      value={words}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
