import { Description, Dialog, DialogPanel, DialogTitle } from "@headlessui/react";

interface Props {
  title: string;
  onTheirs: () => void;
  onMineAsNew: () => void;
}

/** Shown when a step has been changed elsewhere meanwhile: both versions are kept, whatever is chosen. */
export function ConflictDialog({ title, onTheirs, onMineAsNew }: Props) {
  return (
    <Dialog open onClose={() => undefined} role="alertdialog" className="relative z-40">
      <div className="fixed inset-0 grid place-items-center bg-ink/30 p-6">
        <DialogPanel className="max-w-lg rounded border border-ink bg-leaf p-6 shadow-lg">
          <DialogTitle className="font-read text-xl font-semibold">
            “{title}” was changed elsewhere
          </DialogTitle>
          <Description className="mt-2 mb-5 font-read text-base">
            Another window, or another person, has changed this step since you opened it. Nothing has been
            overwritten, and your own changes are still here. What shall become of them?
          </Description>
          <div className="flex flex-wrap gap-3">
            <button type="button" className="button-strong" onClick={onMineAsNew}>
              Keep mine as a new step
            </button>
            <button type="button" className="button" onClick={onTheirs}>
              Let mine go, show the other version
            </button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
