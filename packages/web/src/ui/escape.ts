/** Escape closes a list that is open in a field before it closes what the field is in. */
export function keepForList(e: { preventDefault: () => void }): void {
  if (document.activeElement?.matches('[role=combobox][aria-expanded=true]')) e.preventDefault();
}
