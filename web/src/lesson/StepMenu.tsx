import { ActionMenu } from "../ui/ActionMenu";

interface Props {
  place: number;
  count: number;
  onAdd: () => void;
  onDuplicate: () => void;
  onMove: (by: number) => void;
  onJoin: () => void;
  extra: boolean;
  onExtra: (extra: boolean) => void;
  onTake: () => void;
  onDelete: () => void;
}

/** What can be done with a step as a whole. */
export function StepMenu({
  place,
  count,
  onAdd,
  onDuplicate,
  onMove,
  onJoin,
  extra,
  onExtra,
  onTake,
  onDelete,
}: Props) {
  const items = [
    { word: "Add a step after this one", run: onAdd },
    { word: "Duplicate", run: onDuplicate },
    { word: "Move earlier", run: () => onMove(-1), off: place === 0 },
    { word: "Move later", run: () => onMove(1), off: place === count - 1 },
    { word: "Join with the step before", run: onJoin, off: place === 0 },
    { word: "Take from another lesson…", run: onTake },
    {
      word: extra ? "No longer extra" : "Extra: leave it out of the short edition",
      run: () => onExtra(!extra),
    },
    { word: "Delete this step", run: onDelete },
  ];
  return (
    <ActionMenu
      label="This step"
      actions={items}
      className="rounded px-2 py-1 font-medium text-soft hover:bg-this/10 hover:text-ink"
    >
      Step…
    </ActionMenu>
  );
}
