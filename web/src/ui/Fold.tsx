interface Props {
  /** What is folded, as in “the text”. */
  what: string;
  open: boolean;
  /** The side to which it goes. */
  side: "left" | "right";
  keys: string;
  onFold: () => void;
  className?: string;
}

/** Folds a part of the page away to its side, or brings it back. */
export function Fold({ what, open, side, keys, onFold, className = "" }: Props) {
  const words = open ? `Fold ${what} away` : `Show ${what}`;
  return (
    <button
      type="button"
      aria-label={words}
      aria-expanded={open}
      title={`${words} (${keys})`}
      className={`grid size-7 place-items-center rounded text-soft hover:bg-this/10 hover:text-ink narrow:hidden ${className}`}
      onClick={onFold}
    >
      <svg width="10" height="12" viewBox="0 0 10 12" fill="none" stroke="currentColor" aria-hidden="true">
        <path d={(side === "left") === open ? "M7 1L2 6L7 11" : "M3 1L8 6L3 11"} strokeWidth="1.6" />
      </svg>
    </button>
  );
}
