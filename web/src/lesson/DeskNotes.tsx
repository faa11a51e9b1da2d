import { Notice } from "../ui/Notice";
import { ConflictDialog, GoneDialog } from "./ConflictDialog";
import { MoveDialog } from "./MoveDialog";
import { useDesk } from "./DeskContext";
import { drafts, useKeeping } from "./drafts";
import { bringBack, keepAsNew, moveAllTheSame, type Notes, restore, take, undo } from "./steps";
import { TakePanel } from "./TakePanel";

/** What is asked and said at the desk. */
export function DeskNotes() {
  const { state } = useDesk();
  return (
    <>
      {state.taking && <Taking />}
      <Conflict />
      <Moving />
      <Said />
    </>
  );
}

function Taking() {
  const desk = useDesk();
  const close = () => desk.desk.setState({ taking: false });
  if (!desk.open) return null;
  const { change } = desk.open;
  return (
    <TakePanel
      lesson={desk.lesson}
      onStep={(taken) => {
        close();
        take(desk, taken);
      }}
      onPatch={(taken) => {
        close();
        change(taken);
      }}
      onClose={close}
    />
  );
}

/** Asks what is to be done about a step that somebody else has changed or deleted meanwhile. */
function Conflict() {
  const desk = useDesk();
  const keeping = useKeeping();
  if (keeping.state === "gone")
    return (
      <GoneDialog
        title={keeping.title}
        onBringBack={() => bringBack(desk, keeping.stepId)}
        onLetGo={() => drafts.forget(keeping.stepId)}
      />
    );
  if (keeping.state !== "conflict") return null;
  const { stepId, clashes } = keeping;
  const place = desk.lesson.steps.findIndex((one) => one.id === stepId);
  const step = desk.lesson.steps[place];
  if (!step) return null;
  return (
    <ConflictDialog
      key={clashes.map(({ key }) => key).join()}
      title={desk.contents[place]?.title ?? ""}
      clashes={clashes}
      onDecide={(choices) => drafts.decide(stepId, choices)}
      onMineAsNew={() => keepAsNew(desk, step)}
    />
  );
}

/** Asks whether a step is to be moved although that changes what is heard. */
function Moving() {
  const desk = useDesk();
  const { moving } = desk.state;
  if (!moving) return null;
  return (
    <MoveDialog
      effects={moving.effects}
      onMove={() => moveAllTheSame(desk, moving)}
      onLeave={() => desk.notes.setState({ moving: undefined })}
    />
  );
}

/** Brings back the question that was decided last. */
function askAgain({ open, notes }: ReturnType<typeof useDesk>): void {
  notes.setState({ decided: undefined });
  open?.travelTexts("undo");
}

function Said() {
  const desk = useDesk();
  const { failure, carriedOn, decided, deleted } = desk.state;
  const dismiss = (what: keyof Notes) => () => desk.notes.setState({ [what]: undefined });
  if (failure !== undefined)
    return (
      <Notice warn onClose={dismiss("failure")}>
        {failure}
      </Notice>
    );
  if (carriedOn)
    return (
      <Notice action={{ label: "Take it back", run: () => undo(desk) }} onClose={dismiss("carriedOn")}>
        {carriedText(carriedOn)}
      </Notice>
    );
  if (decided && decided.stepId === desk.open?.step.id)
    return (
      <Notice action={{ label: "Ask again", run: () => askAgain(desk) }} onClose={dismiss("decided")}>
        <span className="first-letter:uppercase">{decided.words}</span> stays: {decided.late}.
      </Notice>
    );
  if (!deleted) return null;
  return (
    <Notice action={{ label: "Bring it back", run: () => restore(desk) }} onClose={dismiss("deleted")}>
      “{deleted.title}” is deleted.
    </Notice>
  );
}

/** In how many steps a change is now, and which of them have kept their own where both have changed the same. */
const carriedText = ({ steps, start, own }: NonNullable<Notes["carriedOn"]>) => {
  const count = start ? steps.length : steps.length - 1;
  if (count === 0) return start ? "The lesson starts from there now." : "The later steps have it already.";
  const where = `The change is in ${count} ${start ? "" : "later "}${count === 1 ? "step" : "steps"} now.`;
  if (own.length === 0) return where;
  const which = own.length === 1 ? `Step ${own[0]} keeps its own` : `Steps ${own.join(", ")} keep their own`;
  return `${where} ${which} until you decide.`;
};
