import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

import { Guarded } from "./Guarded";

interface Props {
  title: string;
  onClose: () => void;
  /** How wide it stands over the page. */
  size?: keyof typeof WIDTHS;
  children: ReactNode;
}

const WIDTHS = {
  narrow: "w-[560px] max-w-full",
  wide: "w-[720px] max-w-full",
  page: "w-[1200px] max-w-full",
};

/** Something that is asked or shown before one goes on; Escape leaves it. */
export function Panel({ title, onClose, size = "narrow", children }: Props) {
  return (
    <Dialog open onClose={onClose} className="relative z-40">
      <DialogBackdrop className="fixed inset-0 bg-ink/20" />
      <div className="fixed inset-0 flex items-start justify-center px-6 py-16">
        <DialogPanel
          className={`flex max-h-full min-h-0 flex-col rounded-md border border-firm bg-leaf shadow-lg ${WIDTHS[size]}`}
        >
          <DialogTitle className="px-4 pt-3 font-read text-read font-semibold">{title}</DialogTitle>
          <Guarded what={`“${title}”`}>{children}</Guarded>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
