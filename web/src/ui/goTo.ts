/** Places of the page that one key leads to. */
const PLACES = {
  text: "[data-write='Why'], [aria-label='Why'], [data-reading]",
  inspector: "[data-inspector] :is([role=slider], input, button, select)",
};

/** Goes to the text of the step, where it is written if it can be, or to what is selected. */
export function goTo(place: keyof typeof PLACES): void {
  const found = document.querySelector<HTMLElement>(PLACES[place]);
  if (found?.dataset.write !== undefined) found.click();
  else found?.focus();
}
