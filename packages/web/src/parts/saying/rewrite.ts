/** Changing words in a field so that it can be undone, as if they had been typed. */

/** Puts `words` in the place of a part of the field's text, with the caret behind them. */
export function rewrite(field: HTMLInputElement, from: number, to: number, words: string): void {
  field.focus();
  field.setSelectionRange(from, to);
  // The one way that leaves the browser's own undo in place; where it is missing, the text is set.
  if (typeof document.execCommand === 'function' && document.execCommand('insertText', false, words)) return;
  const value = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!;
  value.set!.call(field, field.value.slice(0, from) + words + field.value.slice(to));
  field.setSelectionRange(from + words.length, from + words.length);
  field.dispatchEvent(new Event('input', { bubbles: true }));
}
