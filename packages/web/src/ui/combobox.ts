/** What surrounds a field with a list of its own has to know of it. */

/** Escape closes a list that is open in a field before it closes what the field is in. */
export function keepForList(e: { preventDefault: () => void }): void {
  if (document.activeElement?.matches('[role=combobox][aria-expanded=true]')) e.preventDefault();
}

/** Where a finger types, such a field is not focused before it is touched: the keyboard would cover what is read first. */
export const waitsForFinger = (field: Element | null): boolean =>
  field?.getAttribute('role') === 'combobox' && window.matchMedia('(pointer: coarse)').matches;
