import { useEffect, useState } from 'react';

/** A value once it has not changed for `ms`: for what is too much to ask at every keystroke. */
export function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(() => value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}
