import { useIsLit } from "./lit";

/** The number of a mark, as it stands in texts and on pictures alike. */
export function MarkNumber({ number, className = "" }: { number: number; className?: string }) {
  const lit = useIsLit(number);
  return (
    <span
      data-mark-number={number}
      data-lit={lit}
      className={`inline-grid h-[1.25em] min-w-[1.25em] place-items-center rounded-[2px] bg-ink px-[0.2em] font-work text-[0.85em] leading-none font-semibold text-leaf not-italic data-[lit=true]:bg-this data-[lit=true]:ring-3 data-[lit=true]:ring-this/30 ${className}`}
    >
      {number}
    </span>
  );
}
