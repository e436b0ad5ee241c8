import { useState } from 'react';

/**
 * What somebody types, kept apart from the value that it sets: half of a text may not fit yet. When the value changes from
 * elsewhere, as by undo, that is what the field shows again.
 */
export function useTyped(value: string): readonly [text: string, type: (text: string) => void] {
  const [typed, setTyped] = useState({ value, text: value });
  // Adjusted while rendering, as the value that was seen last is part of what is typed.
  if (typed.value !== value) setTyped({ value, text: value });
  return [typed.value === value ? typed.text : value, (text) => setTyped({ value, text })];
}
