import { Switch } from "@headlessui/react";

import { useDesk, useOpenStep } from "./DeskContext";
import { finish } from "./steps";

/** With capture on, building is writing: a key closes the step and begins the next. */
export function Capture() {
  const desk = useDesk();
  const { capturing } = desk.state;
  const moves = useOpenStep().step.instructions.length;
  return (
    <div className="off-paper flex items-center gap-3 border-t border-rule px-4 py-2">
      <Switch
        checked={capturing}
        onChange={(on) => desk.desk.setState({ capturing: on })}
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
            onClick={() => finish(desk)}
          >
            Finish (F)
          </button>
        </>
      ) : (
        <span className="text-note leading-tight text-soft">Build on the bench, step by step.</span>
      )}
    </div>
  );
}
