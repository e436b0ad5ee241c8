import { deflateSync } from 'node:zlib';
import { expect, test } from '@jest/globals';
import { MOST_PIXELS, pngProblem } from './png.ts';

const SIGNATURE = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
function chunk(kind: string, data: Buffer): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(data.length, 0);
  head.write(kind, 4, 'latin1');
  return Buffer.concat([head, data, Buffer.alloc(4)]);
}
function png(width: number, height: number, data: Buffer, end = true): Buffer {
  const header = Buffer.alloc(13);
  header.writeUInt32BE(width, 0);
  header.writeUInt32BE(height, 4);
  header.set([8, 6, 0, 0, 0], 8);
  const parts = [SIGNATURE, chunk('IHDR', header), chunk('IDAT', data)];
  return Buffer.concat(end ? [...parts, chunk('IEND', Buffer.alloc(0))] : parts);
}
const pixels = (width: number, height: number) => deflateSync(Buffer.alloc(height * (4 * width + 1)));

test('a picture that can be decoded is sound', () => {
  expect(pngProblem(png(3, 2, pixels(3, 2)))).toBeNull();
  // The smallest PNG there is, as it is in many test suites.
  const dot = 'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==';
  expect(pngProblem(Buffer.from(dot, 'base64'))).toBeNull();
});

test.each([
  ['that ends too early', png(3, 2, pixels(3, 2), false), /ends too early/],
  ['whose data are none', png(3, 2, Buffer.from('nothing')), /cannot be decoded/],
  ['that unpacks to more than its pixels', png(3, 2, deflateSync(Buffer.alloc(1_000_000))), /cannot be decoded/],
  ['without pixels', png(0, 2, pixels(1, 2)), /0 by 2 pixels/],
  ['of very many pixels', png(MOST_PIXELS + 1, 2, pixels(1, 2)), /4001 by 2 pixels/],
  ['of nothing but its signature', SIGNATURE, /ends too early/],
  [
    'without a header',
    Buffer.concat([SIGNATURE, chunk('IDAT', pixels(1, 1)), chunk('IEND', Buffer.alloc(0))]),
    /no header/,
  ],
])('one %s is not', (_what, bytes, why) => {
  expect(pngProblem(bytes)).toMatch(why);
});
