import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

interface Props {
  title: string;
  onClose: () => void;
  /** How it stands: over the middle of the page, or wide. */
  wide?: boolean;
  children: ReactNode;
}

/** Something that is asked or shown before one goes on; Escape leaves it. */
export function Panel({ title, onClose, wide = false, children }: Props) {
  return (
    <Dialog open onClose={onClose} className="relative z-40">
      <DialogBackdrop className="fixed inset-0 bg-ink/20" />
      <div className="fixed inset-0 flex items-start justify-center p-16">
        <DialogPanel
          className={`flex max-h-full min-h-0 flex-col rounded-md border border-firm bg-leaf shadow-lg ${
            wide ? "w-[720px]" : "w-[560px]"
          }`}
        >
          <DialogTitle className="px-4 pt-3 font-read text-lg font-semibold">{title}</DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
