/** What a browser has and jsdom has not: nothing is laid out in tests, so nothing changes its size or is drawn. */
import { TextDecoder, TextEncoder } from 'node:util';

Object.assign(globalThis, { TextEncoder, TextDecoder });

class NoSizes {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}
globalThis.ResizeObserver ??= NoSizes as unknown as typeof ResizeObserver;
// What needs no page runs without one.
if (typeof Element !== 'undefined') {
  Element.prototype.scrollIntoView ??= () => undefined;
  HTMLCanvasElement.prototype.getContext = () => null;
  window.matchMedia ??= (media: string) =>
    ({
      ...{ media, matches: false, addEventListener: () => undefined, removeEventListener: () => undefined },
    }) as unknown as MediaQueryList;
}
