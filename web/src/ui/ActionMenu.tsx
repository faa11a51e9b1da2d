import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import type { ReactNode } from "react";

export interface Action {
  word: string;
  run: () => void;
  off?: boolean;
  /** Begins a new group. */
  apart?: boolean;
}

interface Props {
  /** What stands on the button, and how it is called where that does not say it. */
  children: ReactNode;
  label?: string;
  actions: Action[];
  /** Where the menu opens. */
  anchor?: "bottom start" | "bottom end" | "top end";
  className: string;
}

/** A button that opens a list of what can be done. */
export function ActionMenu({ children, label, actions, anchor = "bottom end", className }: Props) {
  return (
    <Menu as="div" className="relative shrink-0">
      <MenuButton aria-label={label} className={className}>
        {children}
      </MenuButton>
      <MenuItems
        modal={false}
        anchor={anchor}
        className="z-30 max-h-96 w-max overflow-y-auto outline-none rounded border border-firm bg-leaf py-1 text-ink shadow-md"
      >
        {actions.map((action) => (
          <MenuItem key={action.word} disabled={action.off ?? false}>
            <button
              type="button"
              className={`block w-full px-4 py-1.5 text-left data-disabled:text-soft data-disabled:opacity-60 data-focus:bg-this-wash ${
                action.apart ? "mt-1 border-t border-rule pt-2" : ""
              }`}
              onClick={action.run}
            >
              {action.word}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
