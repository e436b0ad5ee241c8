/**
 * What Zest Bell has to say is at the foot of the page, one thing at a time: what is on its way, and what was just done. What
 * else sticks to the foot moves up by as much, so that nothing one reads or presses is covered.
 */
import { useEffect, useRef } from 'react';
import { Toaster, useSonner } from 'sonner';
import { SendingBar } from './SendingBar.tsx';

export function Dock() {
  const bar = useRef<HTMLDivElement>(null);
  const { toasts } = useSonner();
  const any = toasts.length > 0;
  useEffect(() => {
    const root = document.documentElement;
    const measure = () => {
      const sending = bar.current?.offsetHeight ?? 0;
      root.style.setProperty('--sending', `${sending}px`);
      root.style.setProperty('--dock', `${sending + (any ? 62 : 0)}px`);
    };
    measure();
    const watch = new ResizeObserver(measure);
    if (bar.current) watch.observe(bar.current);
    return () => watch.disconnect();
  }, [any]);
  return (
    <>
      <div ref={bar} className="fixed inset-x-0 bottom-0 z-40 max-[759px]:bottom-(--places)">
        <SendingBar />
      </div>
      <Toaster
        position="bottom-center"
        offset={{ bottom: 'calc(var(--sending, 0px) + 8px)' }}
        mobileOffset={{ bottom: 'calc(var(--sending, 0px) + 66px)' }}
        visibleToasts={1}
        duration={8000}
        closeButton
        toastOptions={{ className: 'zest-toast' }}
      />
    </>
  );
}
