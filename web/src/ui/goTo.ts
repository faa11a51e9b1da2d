/** Places of the page that one key leads to. */
const PLACES = {
  text: ["[data-write='Why'], textarea[aria-label='Why']", "[data-reading]"],
  inspector: ["[data-inspector] [role=slider]", "[data-inspector] :is([role=radio], button, input)"],
};

/** Goes to the text of the step, where it is written if it can be, or to what is selected. */
export function goTo(place: keyof typeof PLACES): void {
  const found = PLACES[place].map((one) => document.querySelector<HTMLElement>(one)).find((one) => one);
  if (found?.dataset.write !== undefined) found.click();
  else found?.focus();
}
