interface Props {
  className: string;
  value: string;
  onChange: (name: string) => void;
}

/** By which name another educator signs in. */
export function EducatorEntry({ className, value, onChange }: Props) {
  return (
    <label className="block">
      <span className="mb-1 block text-soft">Sign-in name of another educator</span>
      <input
        className={`${className} rounded border border-firm px-2 py-1.5`}
        maxLength={80}
        autoCapitalize="none"
        spellCheck={false}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}
