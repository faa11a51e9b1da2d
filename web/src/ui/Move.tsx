interface MoveProps {
  word: string;
  label: string;
  off?: boolean;
  run: () => void;
}

/** A word that moves something in its list, or takes it out. */
export const Move = ({ word, label, off = false, run }: MoveProps) => (
  <button type="button" className="button" aria-label={label} disabled={off} onClick={run}>
    {word}
  </button>
);
