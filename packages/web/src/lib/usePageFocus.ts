/** After another page was opened, keys and screen readers go on there: at the part that the address names, else at the page. */
import { useEffect } from 'react';
import { useLocation } from 'react-router';

/** The id of the page below bars and strip. */
export const PAGE = 'place';

/** A page that is still loading has its part a moment later; in frames. */
const PATIENCE = 120;

export function usePageFocus(): void {
  const { pathname, hash } = useLocation();
  useEffect(() => {
    // What was pressed is still there, as in the bar: the focus stays on it.
    if (document.activeElement === document.body) document.getElementById(PAGE)?.focus({ preventScroll: true });
    if (hash === '') return;
    let left = PATIENCE;
    let frame = requestAnimationFrame(function find() {
      const part = document.getElementById(hash.slice(1));
      if (!part && --left > 0) frame = requestAnimationFrame(find);
      part?.scrollIntoView({ block: 'start' });
      part?.focus({ preventScroll: true });
    });
    return () => cancelAnimationFrame(frame);
  }, [pathname, hash]);
}
