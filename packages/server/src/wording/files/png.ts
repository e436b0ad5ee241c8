/**
 * Whether a PNG can be decoded, and stays within bounds when it is: what draws it into a letter trusts its numbers.
 * Source: W3C, Portable Network Graphics (Third Edition), §5.3, §11.2.1 and §10.1.
 */
import { inflateSync } from 'node:zlib';

/** Pixels a side, and in all: as much as a page or a screen shows, and decoded in a fraction of a second. */
export const MOST_PIXELS = 4000;
const MOST_AREA = 6_000_000;
const SIGNATURE = 8;

/** Why it cannot be used, or null when it can. */
export function pngProblem(bytes: Buffer): string | null {
  const data: Buffer[] = [];
  let ended = false;
  for (let at = SIGNATURE; at + 12 <= bytes.length && !ended;) {
    const length = bytes.readUInt32BE(at);
    const kind = bytes.toString('latin1', at + 4, at + 8);
    if (at + 12 + length > bytes.length) return 'The picture ends too early';
    if (at === SIGNATURE && kind !== 'IHDR') return 'The picture has no header';
    if (kind === 'IDAT') data.push(bytes.subarray(at + 8, at + 8 + length));
    ended = kind === 'IEND';
    at += 12 + length;
  }
  if (!ended || bytes.length < SIGNATURE + 25) return 'The picture ends too early';
  const width = bytes.readUInt32BE(SIGNATURE + 8);
  const height = bytes.readUInt32BE(SIGNATURE + 12);
  if (width === 0 || height === 0 || width > MOST_PIXELS || height > MOST_PIXELS) {
    return `The picture has ${width} by ${height} pixels; it may have ${MOST_PIXELS} by ${MOST_PIXELS}`;
  }
  if (width * height > MOST_AREA) {
    return `The picture has ${width} by ${height} pixels; save it smaller, such as 2000 pixels wide`;
  }
  try {
    // Four channels of two bytes, a filter byte a line, and as much again for the lines of an interlaced picture.
    inflateSync(Buffer.concat(data), { maxOutputLength: 2 * height * (8 * width + 8) });
    return null;
  } catch {
    return 'The picture cannot be decoded';
  }
}
