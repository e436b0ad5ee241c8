import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readExact } from './dates.ts';

const two = (n: number) => String(n).padStart(2, '0');

/** As programs write instants, with any offset, and now and then a digit that does not fit. */
const written = fc
  .record({
    year: fc.integer({ min: 1970, max: 2099 }),
    month: fc.integer({ min: 0, max: 13 }),
    day: fc.integer({ min: 0, max: 32 }),
    hour: fc.integer({ min: 0, max: 24 }),
    minute: fc.integer({ min: 0, max: 60 }),
    second: fc.integer({ min: 0, max: 60 }),
    ms: fc.option(fc.integer({ min: 0, max: 999 })),
    zone: fc.oneof(
      fc.constant('Z'),
      fc
        .tuple(fc.constantFrom('+', '-'), fc.integer({ min: 0, max: 14 }), fc.integer({ min: 0, max: 60 }))
        .map(([sign, h, m]) => `${sign}${two(h)}:${two(m)}`),
    ),
  })
  .map(
    ({ year, month, day, hour, minute, second, ms, zone }) =>
      `${year}-${two(month)}-${two(day)}T${two(hour)}:${two(minute)}:${two(second)}` +
      `${ms === null ? '' : `.${String(ms).padStart(3, '0')}`}${zone}`,
  );

test('an instant that is read at once is what ECMA-262 says of it (§21.4.1.32, by Date.parse)', () => {
  fc.assert(
    fc.property(written, (text) => {
      const read = readExact(text);
      if (read?.ok) expect([text, read.at]).toEqual([text, Date.parse(text)]);
    }),
    { numRuns: 2000 },
  );
});

test('nothing else is read at once', () => {
  for (const text of [
    '2026-01-12',
    '2026-01-12T09:30:00',
    '12/01/2026',
    '2026-02-29T09:30:00Z',
    '2026-01-12T0a:30:00Z',
    '',
  ])
    expect([text, readExact(text)]).toEqual([text, null]);
  expect(readExact('2026-01-12T14:30:00.250Z')).toMatchObject({ ok: true, at: Date.parse('2026-01-12T14:30:00.250Z') });
});
