/** Says that a page is on its way: until its code is there the one before stays, and a press would seem to have done nothing. */
import { useNavigation } from 'react-router';

export function OnItsWay() {
  const { state } = useNavigation();
  if (state === 'idle') return null;
  return (
    <p
      role="status"
      data-loading
      className="late pop pointer-events-none fixed top-31 left-1/2 z-50 -translate-x-1/2 px-4 py-1.5 text-[14.5px] font-semibold"
    >
      Opening the page …
    </p>
  );
}
