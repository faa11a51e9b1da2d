/** Puts the focus on a note or a point, once it is drawn where it stands now. */
export function focusPiece(element: HTMLElement | null, place: number | undefined): void {
  if (place === undefined) return;
  requestAnimationFrame(() => element?.querySelector<HTMLElement>(`[data-piece="${place}"]`)?.focus());
}
