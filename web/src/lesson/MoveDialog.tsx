import { Description, Dialog, DialogPanel, DialogTitle } from "@headlessui/react";

interface Props {
  effects: string[];
  onMove: () => void;
  onLeave: () => void;
}

const MOST = 8;

/** Shown before steps change places, where that changes what they do or how the lesson ends. */
export function MoveDialog({ effects, onMove, onLeave }: Props) {
  const more = effects.length - MOST;
  return (
    <Dialog open onClose={onLeave} className="relative z-40">
      <div className="fixed inset-0 grid place-items-center bg-ink/30 p-6">
        <DialogPanel className="max-w-xl rounded border border-ink bg-leaf p-6 shadow-lg">
          <DialogTitle className="font-read text-head font-semibold">
            In this order something changes
          </DialogTitle>
          <Description className="mt-2 font-read text-read">
            What two steps set, the later one decides. One act undoes it again.
          </Description>
          <ul
            className="my-3 max-h-72 list-disc overflow-y-auto pl-5 font-read text-read"
            aria-label="What changes"
          >
            {effects.slice(0, MOST).map((effect) => (
              <li key={effect}>{effect}</li>
            ))}
            {more > 0 && <li>And {more} more.</li>}
          </ul>
          <div className="flex flex-wrap gap-3">
            <button type="button" className="button-strong" onClick={onMove}>
              Move it all the same
            </button>
            <button type="button" className="button" onClick={onLeave}>
              Leave the order as it is
            </button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
