/** [F17] A long file is read a piece at a time, from wherever it lies, and says what it would say whole. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { EVENT_KINDS } from '../../activity/event.ts';
import { NEW_YORK } from '../../testing/build.ts';
import { draftOf, importFileInParts } from '../take/importFiles.ts';
import { EventList, type EventFromFile } from '../take/eventList.ts';
import { sourceOf } from './source.ts';
import { decodeText, textOf, type Bytes } from './text.ts';

/** What is read of bytes, and how often. */
function counted(bytes: Uint8Array): Bytes & { readonly sizes: number[] } {
  const sizes: number[] = [];
  return {
    size: bytes.length,
    sizes,
    read(from, to) {
      const piece = bytes.subarray(from, to);
      sizes.push(piece.length);
      return piece;
    },
  };
}

/** Longer than a piece, so that every character of `unit` is at a border of some piece, one after the other. */
const long = (unit: string): string => unit.repeat(Math.ceil((3 << 18) / unit.length));
const utf16 = (text: string): Uint8Array => new Uint8Array(Buffer.from(`\uFEFF${text}`, 'utf16le'));

describe('[F17] a text in pieces', () => {
  test.each([
    ['utf-8', 'aé€𝄞\n', (text: string) => new TextEncoder().encode(text)],
    ['utf-16le', 'aé€𝄞\n', utf16],
    ['windows-1252', 'aé\n', (text: string) => new Uint8Array(Buffer.from(text, 'latin1'))],
  ] as const)('is the text, in %s', (encoding, unit, encode) => {
    const text = `x${long(unit)}`;
    expect(decodeText(encode(text))).toEqual({ text, encoding });
  });

  test('of a damaged file says so wherever the damage is', () => {
    const bytes = new TextEncoder().encode(long('aé\n'));
    bytes[bytes.length - 3] = 0xff;
    expect(() => textOf(counted(bytes))).toThrow(/damaged/);
    expect(() => decodeText(new TextEncoder().encode(`${long('a,b\n')}\0`))).toThrow(/no text file/);
  });

  test('has its records, with quotation marks, line breaks and delimiters at every border', () => {
    const rows = Array.from({ length: 40_000 }, (_, i) => [`p${i}`, `“a, ""${'x'.repeat(i % 17)}\r\nb”`, String(i)]);
    const quoted = (cell: string) => `"${cell}"`;
    const text = `id,text,n\r\n${rows.map((r) => r.map(quoted).join(',')).join('\r\n')}\r\n`;
    const source = sourceOf({ name: 'a.csv', content: { bytes: counted(new TextEncoder().encode(text)) } });
    if (source.form !== 'table') throw new Error('no table');
    let n = 0;
    for (const row of source.table.rows) {
      expect(row.cells).toEqual(rows[n]!.map((cell) => cell.replaceAll('""', '"')));
      expect(row.line).toBe(2 + 2 * n);
      n++;
    }
    expect(n).toBe(rows.length);
  });

  test('is asked for once to know its encoding and twice to be taken, refused rows included', () => {
    const rows = Array.from({ length: 60_000 }, (_, i) => `p${i % 3},visit,2026-10-${10 + (i % 15)} 10:00\n`).join('');
    const file = counted(new TextEncoder().encode(`person,kind,at\n${rows}`));
    const people = ['p0', 'p1'].map((id) => ({
      id,
      firstName: 'A',
      lastName: id,
      role: 'student',
      enrolledAt: '2026-08-31T00:00:00-04:00',
    }));
    const draft = draftOf({
      course: { code: 'NAV 120', title: 'N', timeZone: NEW_YORK, start: '2026-08-31', end: '2026-12-18' },
      people,
      items: [],
    });
    const parts = importFileInParts({ name: 'a.csv', content: { bytes: file } }, draft, {
      asOf: Date.UTC(2026, 10, 1),
    });
    let done = parts.next();
    while (!done.done) done = parts.next();
    const report = done.value;
    expect(report).toMatchObject({ read: 60_000, new: 10 });
    expect(report.refused).toHaveLength(20_000);
    expect(report.refusedRows.get(4)).toBe('p2,visit,2026-10-12 10:00');
    // Besides, the head is looked at to know what the file is.
    const head = 6 * (1 << 18);
    expect(file.sizes.reduce((a, b) => a + b, 0)).toBeLessThan(3 * file.size + head);
    expect(Math.max(...file.sizes)).toBeLessThanOrEqual(1 << 18);
  });
});

describe('[F17] a list of events in a few bytes each', () => {
  const event = fc.record({
    person: fc.constantFrom('p1', 'p2', 'p3'),
    kind: fc.constantFrom(...EVENT_KINDS),
    item: fc.constantFrom(null, 'q1', 'q2'),
    at: fc.integer({ min: -3, max: 3 }).map((n) => n * 4_294_967_296 + (n % 2)),
    id: fc.option(fc.string({ minLength: 1, maxLength: 20 }), { nil: undefined }),
  });
  const keyOf = (e: EventFromFile) => [e.person, e.kind, e.item, e.at].join(' ');

  test('is a set of what was added and not removed, and the same in another thread', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(event, fc.boolean()), { maxLength: 300 }), (steps) => {
        const list = new EventList();
        const model = new Map<string, EventFromFile>();
        for (const [{ id, ...plain }, isAdded] of steps) {
          const given = id === undefined ? plain : { ...plain, id };
          const key = keyOf(plain);
          expect(list.has(plain)).toBe(model.has(key));
          if (isAdded) {
            expect(list.add(given)).toBe(!model.has(key));
            if (!model.has(key)) model.set(key, given);
          } else expect(list.remove(plain)).toBe(model.delete(key));
        }
        expect(list).toHaveLength(model.size);
        expect([...list]).toEqual([...model.values()]);
        const there = EventList.from(list.toColumns());
        expect(there).toHaveLength(model.size);
        const byPerson = (events: Iterable<EventFromFile>, who: string) => [...events].filter((e) => e.person === who);
        for (const who of ['p1', 'p2', 'p3']) expect(byPerson(there, who)).toEqual(byPerson(model.values(), who));
      }),
    );
  });
});
