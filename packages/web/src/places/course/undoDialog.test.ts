import { expect, test } from '@jest/globals';
import { asksFirst, undoWords } from './UndoDialog.tsx';

const NONE = { against: [], goes: { events: 0, grades: 0 }, stays: { grades: 0, people: 0, items: 0 }, unknown: 0 };

test('says what goes and what a later file keeps, and nothing where nothing is to be known', () => {
  expect(asksFirst(NONE)).toBe(false);
  const ahead = { ...NONE, goes: { events: 0, grades: 55 }, stays: { grades: 5, people: 1, items: 0 }, unknown: 2 };
  expect(asksFirst(ahead)).toBe(true);
  expect(undoWords(ahead)).toEqual([
    '55 grades are taken out of the course.',
    '5 grades and 1 person stay: a later file says the same.',
    '2 later files came before Zest Bell remembered what a file repeats. What they may have repeated cannot be known, and is taken out too.',
  ]);
});
