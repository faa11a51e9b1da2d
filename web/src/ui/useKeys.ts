import { useEffect } from "react";

/** A key as it is written for people: “A”, “Shift+D”, “Ctrl+Z”, “Space”. */
export function keyOf(event: KeyboardEvent): string {
  const name = event.key === " " ? "Space" : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const isLetter = name.length > 1 || /[A-Z]/.test(name);
  const control = event.ctrlKey || event.metaKey ? "Ctrl+" : "";
  return `${control}${event.shiftKey && isLetter ? "Shift+" : ""}${name}`;
}

/** What letters go to themselves: fields, lists that one moves through, dialogs. */
const TYPED_INTO =
  "input:not([type=range]), textarea, select, [contenteditable], [role=listbox], [role=menu], [role=dialog]";

/** Where one reads and writes: whoever types just beside a text means the text, and copies and selects what stands there. */
const READING = "[data-reading]";
const IN_READING = ["Space", "Q", "I", "U", "?"];

/** Runs an action when its key is pressed, unless somebody is typing or means the control in focus. */
export function useKeys(actions: Record<string, (() => unknown) | undefined>): void {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const key = keyOf(event);
      const action = actions[key];
      const target = event.target instanceof Element ? event.target : null;
      const typing = target?.closest(TYPED_INTO);
      const operating =
        event.key === " " && target?.closest("button, a, [role=button], [role=switch], [role=radio]");
      const reading = target?.closest(READING) && !IN_READING.includes(key);
      if (!action || typing || operating || reading || event.altKey || event.defaultPrevented) return;
      event.preventDefault();
      action();
    };
    document.addEventListener("keydown", press);
    return () => document.removeEventListener("keydown", press);
  });
}
