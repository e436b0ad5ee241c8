/** Who gets a line to the mail server, and how much of a course is taken at once. */
import { beforeEach, describe, expect, test } from '@jest/globals';
import { domainOf, ServerLines, type Passenger } from './lines.ts';
import { Pace } from './pace.ts';

let pace: Pace;
let lines: ServerLines;
beforeEach(() => {
  pace = new Pace();
  lines = new ServerLines(pace);
});

/** What is on a line, in order, and how each gets off. */
const riding: { readonly name: string; readonly off: () => void }[] = [];
beforeEach(() => void riding.splice(0));
const settled = () => new Promise((resolve) => setImmediate(resolve));
async function board(name: string, { course, domain }: Passenger): Promise<void> {
  void lines.run({ course, domain }, () => new Promise<void>((off) => riding.push({ name, off })));
  await settled();
}
const names = () => riding.map((r) => r.name);

describe('a line', () => {
  test('is kept from one course, and from one domain, for others', async () => {
    for (let i = 0; i < 6; i++) await board(`1 ${i}`, { course: 1, domain: `d${i}.example` });
    expect(names()).toEqual(['1 0', '1 1', '1 2', '1 3']);
    expect(lines.hasRoom).toBe(true);
    await board('2', { course: 2, domain: 'd9.example' });
    expect([names().at(-1), lines.hasRoom]).toEqual(['2', false]);
    riding[0]!.off();
    await settled();
    expect(names().at(-1)).toBe('1 4');
  });

  test('is kept from several courses that write to one domain', async () => {
    for (let i = 0; i < 6; i++) await board(`slow ${i}`, { course: i, domain: 'slow.example' });
    await board('other', { course: 3, domain: 'quick.example' });
    expect(names()).toEqual(['slow 0', 'slow 1', 'slow 2', 'slow 3', 'other']);
  });

  test('is kept from all that were slow lately together', async () => {
    for (const n of [1, 2, 3]) pace.ended({ course: n, domain: `slow${n}.example` }, 5_000);
    for (const n of [1, 2, 3, 1, 2]) await board(`slow ${n}`, { course: n, domain: `slow${n}.example` });
    expect(names()).toHaveLength(4);
    await board('quick', { course: 9, domain: 'quick.example' });
    expect(names().at(-1)).toBe('quick');
  });

  test('is given to nobody who waited when all are sent away', async () => {
    for (let i = 0; i < 4; i++) await board(`1 ${i}`, { course: 1, domain: 'a.example' });
    const answer = lines.run({ course: 1, domain: 'a.example' }, () => Promise.resolve('had one'));
    lines.clear();
    expect(await answer).toBeNull();
    expect(names()).toHaveLength(4);
  });

  test('that a slow domain holds leaves what goes there in the queue', async () => {
    expect(domainOf('P1@Slow.Example')).toBe('slow.example');
    pace.ended({ course: 1, domain: 'slow.example' }, 5_000);
    for (let i = 0; i < 3; i++) await board(`${i}`, { course: i, domain: 'slow.example' });
    expect(lines.crowded).toEqual([]);
    await board('3', { course: 3, domain: 'slow.example' });
    for (let i = 0; i < 5; i++) await board(`q${i}`, { course: i, domain: 'quick.example' });
    expect(lines.crowded).toEqual(['slow.example']);
  });
});

describe('a course', () => {
  const message = (course: number) => ({ course, domain: 'a.example' });

  test('leaves lines to others until one of its messages was taken quickly', () => {
    expect(pace.roomOf([])(1)).toBe(3);
    expect(pace.roomOf([1, 1, 2])(1)).toBe(1);
    pace.ended(message(1), 20);
    expect(pace.roomOf([1, 1, 1])(1)).toBe(Infinity);
    expect(pace.roomOf([1, 1, 1])(2)).toBe(3);
  });

  test('leaves them again while a message of it has been on its line for long, and after one that took long', () => {
    const late = message(1);
    pace.ended(message(1), 20);
    pace.began(late, 0);
    expect(pace.roomOf([1], 1_000)(1)).toBe(Infinity);
    expect(pace.roomOf([1], 1_001)(1)).toBe(2);
    pace.ended(late, 5_000);
    expect(pace.roomOf([1, 1, 1, 1])(1)).toBe(0);
  });

  test('a slow server is given little at once, a quick one as much as a crash may leave unclear', () => {
    expect(pace.limit(16)).toBeNull();
    pace.ended(message(1), 1);
    expect(pace.limit(16)).toBe(16);
    for (let i = 0; i < 40; i++) pace.ended(message(1), 5_000);
    expect(pace.limit(16)).toBe(5);
  });
});
