/** What makes a press sure. These run in the page, each separately: they call nothing of their own. */

/** Whether an element is there, can be used, and is at the same place in three frames. */
export async function standsStill(element: Element): Promise<boolean> {
  if (element.closest('button')?.disabled || element.closest('[aria-busy=true]')) return false;
  const places = new Set<string>();
  for (let frame = 0; frame < 3; frame++) {
    await new Promise(requestAnimationFrame);
    if (!element.isConnected) return false;
    const { x, y, width, height } = element.getBoundingClientRect();
    places.add([x, y, width, height].join(' '));
  }
  return places.size === 1;
}

type WatchedElement = Element & { wasHit?: boolean };

/**
 * Watches whether a click reaches an element: what arrives between press and release may push it away, and then nothing is clicked. A
 * menu opens at the press. A control that was drawn anew at its place in the meantime took the click instead.
 */
export function watched(element: WatchedElement): void {
  const controls = 'button, a, label, summary, [role=option], [role=menuitem], [role=tab]';
  const pressed = element.closest(controls) ?? element;
  const words = pressed.textContent;
  element.wasHit = false;
  document.addEventListener(
    element.closest('[aria-haspopup=menu]') ? 'pointerdown' : 'click',
    (e) => {
      const hit = e.target as Element;
      const anew = !pressed.isConnected && hit.closest(controls)?.textContent === words;
      element.wasHit = anew || pressed.contains(hit);
    },
    { capture: true, once: true },
  );
}

export const wasHit = (element: WatchedElement): boolean => element.wasHit === true;

/** For a link to another page of the application, the path of its page and the path to which it leads. */
export function leadsTo(element: Element): readonly [string, string] | null {
  const link = element.closest('a');
  if (!link || link.target !== '' || link.hasAttribute('download') || link.origin !== location.origin) return null;
  const [from, to] = [location.pathname, link.pathname];
  return from === to || to.startsWith('/api/') ? null : [from, to];
}
