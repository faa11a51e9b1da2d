import { Choice } from "./Choice";
import { type OneOfProps, Segments } from "./Segments";

/** Words that are longer than this together do not stand in one line. */
const ONE_LINE = 26;
const BETWEEN = 2;

/** One of a few words: side by side where they fit, else from a list that opens. */
export function OneOf<T extends string | number>(props: OneOfProps<T>) {
  const { label, help, unit = "", options, value, before, onChange } = props;
  const letters = options.reduce((sum, { word }) => sum + word.length + BETWEEN, unit.length);
  if (letters <= ONE_LINE) return <Segments {...props} />;
  const word = options.find((one) => one.value === value)?.word;
  const old = options.find((one) => one.value === before)?.word;
  return (
    <div className="mt-1 flex items-baseline gap-2">
      <span title={help} className="min-w-12 shrink-0 first-letter:uppercase">
        {label}
      </span>
      {onChange ? (
        <Choice label={label} look="word" value={value} options={options} onChange={onChange} />
      ) : (
        <span className="font-semibold">{word}</span>
      )}
      {unit && <span className="text-soft">{unit}</span>}
      {old !== undefined && old !== word && (
        <span className="border-b-2 border-dotted border-compared text-note" title="Before this step">
          {old}
        </span>
      )}
    </div>
  );
}
