import { Switch } from "@headlessui/react";

/** Tells that what is built now belongs to a detour. */
export function OnDetour({ name, onBack }: { name: string; onBack: () => void }) {
  return (
    <div className="mb-3 border border-compared bg-leaf p-2.5">
      <p>
        On the bench is the detour <b className="font-semibold text-compared-text">{name}</b>: the step itself
        stays as it is.
      </p>
      <button type="button" className="button mt-1.5" onClick={onBack}>
        Back from the detour
      </button>
    </div>
  );
}

/** Tells that the later steps do not have this step's change, and offers to bring it there. */
export function CarryOn({ later, onCarry }: { later: number; onCarry: () => void }) {
  return (
    <div className="mb-3 border border-this bg-this-wash p-2.5" data-carry>
      <p>
        {later === 1 ? "The next step does" : `The ${later} later steps do`} not have what was changed here.
      </p>
      <button type="button" className="button mt-1.5" onClick={onCarry}>
        Carry it forward
      </button>
    </div>
  );
}

interface CaptureProps {
  capturing: boolean;
  moves: number;
  onToggle: (on: boolean) => void;
  onFinish: () => void;
}

/** With capture on, building is writing: a key closes the step and begins the next. */
export function Capture({ capturing, moves, onToggle, onFinish }: CaptureProps) {
  return (
    <div className="flex items-center gap-3 border-t border-rule px-4 py-2">
      <Switch
        checked={capturing}
        onChange={onToggle}
        className="rounded border border-rule px-3 py-1 data-checked:border-warn data-checked:bg-leaf data-checked:font-semibold data-checked:text-warn"
      >
        Capture
      </Switch>
      {capturing ? (
        <>
          <span className="flex-1 whitespace-nowrap text-soft" aria-live="polite">
            {moves === 1 ? "1 move" : `${moves} moves`}
          </span>
          <button
            type="button"
            className="button whitespace-nowrap"
            aria-keyshortcuts="F"
            title="Finish this step and begin the next"
            onClick={onFinish}
          >
            Finish (F)
          </button>
        </>
      ) : (
        <span className="text-[13px] leading-tight text-soft">Build on the bench, step by step.</span>
      )}
    </div>
  );
}
