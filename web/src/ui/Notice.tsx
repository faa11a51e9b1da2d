import type { ReactNode } from "react";

interface Props {
  children: ReactNode;
  action?: { label: string; run: () => void };
  onClose?: () => void;
  warn?: boolean;
}

/** A message at the foot of the page that stays until it is answered or closed. */
export function Notice({ children, action, onClose, warn = false }: Props) {
  return (
    <div
      role={warn ? "alert" : "status"}
      className={`fixed bottom-20 left-1/2 z-30 flex -translate-x-1/2 items-center gap-4 rounded border bg-leaf px-4 py-2.5 shadow-md ${
        warn ? "border-warn" : "border-ink"
      }`}
    >
      <span>{children}</span>
      {action && (
        <button type="button" className="act font-semibold" onClick={action.run}>
          {action.label}
        </button>
      )}
      {onClose && (
        <button type="button" className="act-quiet" onClick={onClose}>
          Close
        </button>
      )}
    </div>
  );
}
