import { useState } from "react";

import { ActionMenu } from "../ui/ActionMenu";
import { useDesk, useOpenStep } from "./DeskContext";
import { OutsidePanel } from "./OutsidePanel";
import { add, duplicate, join, move, remove } from "./steps";
import { textHistoryOf } from "./textHistory";

/** What can be done with a step as a whole. */
export function StepMenu() {
  const desk = useDesk();
  const { step, content, change, travelTexts } = useOpenStep();
  const texts = textHistoryOf(step.id, content);
  const [outside, setOutside] = useState(false);
  const { extra } = content;
  const first = desk.place === 0;
  const last = desk.place === desk.lesson.steps.length - 1;
  const items = [
    { word: "Add a step after this one", run: () => add(desk) },
    { word: "Duplicate", run: () => duplicate(desk, step) },
    { word: "Move earlier", run: () => move(desk, -1), off: first },
    { word: "Move later", run: () => move(desk, 1), off: last },
    { word: "Join with the step before", run: () => join(desk, step), off: first },
    { word: "Undo in the text", run: () => travelTexts("undo"), off: !texts.can("undo"), apart: true },
    { word: "Redo in the text", run: () => travelTexts("redo"), off: !texts.can("redo") },
    { word: "Take from another lesson…", run: () => desk.desk.setState({ taking: true }), apart: true },
    {
      word: extra ? "No longer extra" : "Extra: leave it out of the short edition",
      run: () => change({ extra: !extra }),
    },
    { word: "On other instruments…", run: () => setOutside(true) },
    { word: "Delete this step", run: () => remove(desk, step) },
  ];
  return (
    <>
      <ActionMenu
        label="This step"
        actions={items}
        className="rounded px-2 py-1 font-medium text-soft hover:bg-this/10 hover:text-ink"
      >
        Step…
      </ActionMenu>
      {outside && <OutsidePanel stepId={step.id} onClose={() => setOutside(false)} />}
    </>
  );
}
