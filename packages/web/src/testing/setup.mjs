// What a browser has and jsdom has not: nothing is laid out in tests, so nothing changes its size or is drawn.
import { TextDecoder, TextEncoder } from 'node:util';

class NoSizes {
  observe() {}
  unobserve() {}
  disconnect() {}
}
const noMedia = (media) => ({ media, matches: false, addEventListener() {}, removeEventListener() {} });

Object.assign(globalThis, { TextEncoder, TextDecoder });
globalThis.ResizeObserver ??= NoSizes;
// What needs no page runs without one.
if (typeof Element !== 'undefined') {
  Element.prototype.scrollIntoView ??= () => undefined;
  HTMLCanvasElement.prototype.getContext = () => null;
  window.matchMedia ??= noMedia;
}
