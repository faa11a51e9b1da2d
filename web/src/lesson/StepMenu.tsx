import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";

interface Props {
  place: number;
  count: number;
  onAdd: () => void;
  onDuplicate: () => void;
  onMove: (by: number) => void;
  onDelete: () => void;
}

/** What can be done with a step as a whole. */
export function StepMenu({ place, count, onAdd, onDuplicate, onMove, onDelete }: Props) {
  const items = [
    { word: "Add a step after this one", run: onAdd, off: false },
    { word: "Duplicate", run: onDuplicate, off: false },
    { word: "Move earlier", run: () => onMove(-1), off: place === 0 },
    { word: "Move later", run: () => onMove(1), off: place === count - 1 },
    { word: "Delete this step", run: onDelete, off: false },
  ];
  return (
    <Menu as="div" className="relative shrink-0">
      <MenuButton
        aria-label="This step"
        className="rounded px-2 py-1 font-medium text-soft hover:bg-this/10 hover:text-ink"
      >
        Step…
      </MenuButton>
      <MenuItems
        modal={false}
        className="absolute top-full right-0 z-20 w-max rounded border border-firm bg-leaf py-1 shadow-md"
      >
        {items.map((item) => (
          <MenuItem key={item.word} disabled={item.off}>
            <button
              type="button"
              className="block w-full px-4 py-1.5 text-left data-disabled:text-soft data-disabled:opacity-60 data-focus:bg-this-wash"
              onClick={item.run}
            >
              {item.word}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
