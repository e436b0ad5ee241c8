import { describe, expect, test } from '@jest/globals';
import { DAY } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import { History } from '@zest-bell/core/activity';
import { HistoryFacts, valueAt } from '@zest-bell/core/measures';
import { OPENING, DEMO_COURSES, SET_UP_AT, SEED } from '../demo/saltmarsh.ts';
import { HABITS } from './habits.ts';
import { chance } from './random.ts';
import { Campus } from './simulator.ts';

const [nav] = DEMO_COURSES;
const course = makeCourse(nav!.parts);
const campus = (letters: number[] = []) =>
  new Campus(course, { seed: SEED, habits: nav!.habits, never: nav!.never, letters: () => letters });

test('the same seed tells the same story, however it is cut into pieces', () => {
  const whole = campus().activity(SET_UP_AT, SET_UP_AT + 20 * DAY);
  const pieces = [0, 3, 4, 11, 20].map((d) => SET_UP_AT + d * DAY);
  const told = pieces.slice(1).flatMap((until, i) => campus().activity(pieces[i]!, until).events);
  expect(told).toEqual(whole.events);
  expect(new Set(whole.events.map((e) => e.id)).size).toBe(whole.events.length);
});

test('nothing is told from outside the stretch asked for, and only of the course’s people and items', () => {
  const { events, grades } = campus().activity(SET_UP_AT, OPENING);
  for (const e of [...events, ...grades]) {
    expect(e.at > SET_UP_AT && e.at <= OPENING).toBe(true);
    expect(course.personIndex.has(e.person)).toBe(true);
    expect(e.item === null || course.itemIndex.has(e.item)).toBe(true);
  }
});

describe('the six habits', () => {
  const history = new History(course);
  const { events, grades } = campus().activity(SET_UP_AT, OPENING);
  for (const e of events) history.addEvent(e);
  for (const g of grades) history.addGrade({ ...g, criterion: null });
  const facts = new HistoryFacts(course, history);
  const mean = (habit: string, measure: 'daysSinceVisit' | 'courseGrade' | 'missing') => {
    const values = course.people.flatMap((p, i) => {
      if (nav!.habits[p.id] !== habit || nav!.never.includes(p.id)) return [];
      const v = valueAt(facts.timeline(i, { measure }), OPENING);
      return typeof v === 'number' ? [v] : [];
    });
    return values.reduce((a, b) => a + b, 0) / values.length;
  };

  test('are all in the class', () => {
    expect(HABITS.filter((h) => !Object.values(nav!.habits).includes(h))).toEqual([]);
  });

  test('show in what the measures say: the fading stay away, the struggling work and score low, the excelling do well', () => {
    expect(mean('fading', 'daysSinceVisit')).toBeGreaterThan(5);
    expect(mean('steady', 'daysSinceVisit')).toBeLessThan(3);
    expect(mean('struggling', 'courseGrade')).toBeLessThan(60);
    expect(mean('struggling', 'missing')).toBeLessThan(mean('fading', 'missing'));
    expect(mean('excelling', 'courseGrade')).toBeGreaterThan(90);
  });

  test('one of them has never been there at all', () => {
    expect(events.some((e) => nav!.never.includes(e.person) && e.kind === 'visit')).toBe(false);
  });
});

test('a letter brings some of those who were away back within two days', () => {
  const letter = OPENING - 10 * DAY;
  const visits = (letters: number[]) =>
    new Set(
      campus(letters)
        .activity(letter, letter + 2 * DAY)
        .events.filter((e) => e.kind === 'visit')
        .map((e) => e.person),
    );
  const without = visits([]);
  const withLetter = visits([letter]);
  expect(withLetter.size).toBeGreaterThan(without.size);
});

test('chance lies in [0, 1), repeats itself, and spreads', () => {
  const draws = Array.from({ length: 4000 }, (_, i) => chance('spread', i));
  expect(Math.min(...draws)).toBeGreaterThanOrEqual(0);
  expect(Math.max(...draws)).toBeLessThan(1);
  expect(chance('spread', 7)).toBe(draws[7]);
  const mean = draws.reduce((a, b) => a + b, 0) / draws.length;
  expect(Math.abs(mean - 0.5)).toBeLessThan(0.03);
});
