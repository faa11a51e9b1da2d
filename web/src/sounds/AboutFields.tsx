import type { About } from "./sounds";

interface Props {
  about: About;
  onChange: (about: About) => void;
}

const FIELDS: [name: keyof About, label: string, hint: string, most: number][] = [
  ["name", "Name", "What you call it", 60],
  ["source", "Source", "Who, where, when", 200],
  ["licence", "Licence", "Who may use it", 200],
];

/** What a sound is called, where it comes from, and what may be done with it. */
export function AboutFields({ about, onChange }: Props) {
  return FIELDS.map(([name, label, hint, most]) => (
    <label key={name} className="flex min-w-0 flex-1 flex-col">
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
