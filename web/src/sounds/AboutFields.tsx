import type { About } from "./sounds";

interface Props {
  about: About;
  onChange: (about: About) => void;
}

const FIELDS: [name: keyof About, label: string, hint: string, most: number, width: string][] = [
  ["name", "Name", "What you call it", 60, "basis-2/5"],
  ["licence", "Licence", "Who may use it", 200, "basis-2/5"],
  ["source", "Source", "Who, where, when", 200, "basis-3/5"], // the longest: in a row of its own
];

/** What a sound is called, what may be done with it, and where it comes from; in two rows of what wraps. */
export function AboutFields({ about, onChange }: Props) {
  return FIELDS.map(([name, label, hint, most, width]) => (
    <label key={name} className={`flex min-w-0 grow flex-col ${width}`}>
      <span className="text-soft">{label}</span>
      <input
        type="text"
        value={about[name]}
        maxLength={most}
        autoFocus={name === "name"}
        placeholder={hint}
        className="min-w-0 border-b border-firm bg-transparent py-1 font-read text-read placeholder:text-soft/70 focus:bg-leaf"
        onChange={({ currentTarget }) => onChange({ ...about, [name]: currentTarget.value })}
      />
    </label>
  ));
}
