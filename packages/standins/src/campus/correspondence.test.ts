import { expect, test } from '@jest/globals';
import { DAY, HOUR } from '@zest-bell/core/time';
import type { StoredLetter } from '../mailroom/letters.ts';
import { DEMO_COURSES, SET_UP_AT, SEED } from '../demo/saltmarsh.ts';
import { Correspondence } from './correspondence.ts';

const [nav] = DEMO_COURSES;
const letterAt = (to: string, at: number) => ({ id: `${to} ${at}`, to, at, subject: 'A word' }) as StoredLetter;
/** Everybody has a letter a week. */
const weekly = (address: string) => [1, 2, 3, 4, 5, 6, 7, 8].map((w) => letterAt(address, SET_UP_AT + w * 7 * DAY));
const written = new Correspondence({
  seed: SEED,
  people: nav!.parts.people,
  habits: nav!.habits,
  away: nav!.away,
  letters: weekly,
});
const END = SET_UP_AT + 70 * DAY;

test('some letters are answered, within a day and a half, and the same ones every time', () => {
  const all = written.between(SET_UP_AT, END);
  const real = all.filter((a) => a.kind === 'answer');
  expect(real.length).toBeGreaterThan(20);
  expect(real.length).toBeLessThan(41 * 8 * 0.4);
  expect(real.every((a) => a.at > a.letter.at && a.at - a.letter.at < 30 * HOUR)).toBe(true);
  expect(written.between(SET_UP_AT, END)).toEqual(all);
});

test('a stretch of time cut in two has the same answers, and the next one is the first of them', () => {
  const all = written.between(SET_UP_AT, END);
  const cut = all[5]!.at;
  expect([...written.between(SET_UP_AT, cut), ...written.between(cut, END)]).toEqual(all);
  expect(written.next(SET_UP_AT)).toBe(all[0]!.at);
  expect(written.next(END)).toBeNull();
});

test('who is away answers by a machine alone', () => {
  const away = nav!.parts.people.find((p) => p.id === nav!.away[0])!;
  const theirs = written.between(SET_UP_AT, END).filter((a) => a.letter.to === away.email);
  expect(theirs.map((a) => a.kind)).toEqual(Array.from({ length: 8 }, () => 'outOfOffice'));
});
