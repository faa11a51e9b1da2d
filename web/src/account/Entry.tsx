interface Props {
  label: string;
  type?: "text" | "password";
  autoComplete: string;
  help?: string | undefined;
  value: string;
  onChange: (text: string) => void;
}

/** A line in which something is typed. */
export function Entry({ label, type = "text", autoComplete, help, value, onChange }: Props) {
  return (
    <label className="mb-3 block">
      <span className="mb-1 block text-soft">{label}</span>
      <input
        type={type}
        autoComplete={autoComplete}
        autoCapitalize="none"
        spellCheck={false}
        maxLength={200}
        className="w-full rounded border border-firm bg-paper px-2 py-1.5"
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
      {help && <span className="mt-1 block text-note text-soft">{help}</span>}
    </label>
  );
}
