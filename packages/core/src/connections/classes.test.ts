import { describe, expect, test } from '@jest/globals';
import { proposeClasses } from './classes.ts';

const COURSES = [
  { id: 1, code: 'NAV 120', title: 'Coastal Navigation' },
  { id: 2, code: 'MET 115', title: 'Weather at Sea' },
  { id: 3, code: '', title: 'Knots' },
];
const of = (sourcedId: string, classCode: string, title: string, more: object = {}) => ({
  sourcedId,
  classCode,
  title,
  status: 'active',
  ...more,
});
const proposed = (...classes: unknown[]) => proposeClasses(classes, COURSES).map((c) => [c.id, c.course]);

describe('which class is which course', () => {
  test('by its code, however it is written, then by its title', () => {
    expect(proposed(of('a', 'nav-120', 'Navigation I'), of('b', 'X', 'weather at sea'), of('c', '', 'Knots'))).toEqual([
      ['a', 1],
      ['b', 2],
      ['c', 3],
    ]);
  });

  test('by a title that begins with the code', () => {
    expect(proposed(of('a', '', 'NAV 120: Coastal Navigation'))).toEqual([['a', 1]]);
  });

  test('of two sections with one code the one with the title too, and neither where both fit alike', () => {
    expect(proposed(of('a', 'NAV 120', 'Coastal Navigation'), of('b', 'NAV 120', 'Evening section'))).toEqual([
      ['a', 1],
      ['b', null],
    ]);
    expect(proposed(of('a', 'NAV 120', 'Day'), of('b', 'NAV 120', 'Evening'))).toEqual([
      ['a', null],
      ['b', null],
    ]);
  });

  test('nothing for what fits no course; what is deleted or has no id is left out', () => {
    expect(proposed(of('a', 'ART 1', 'Drawing'), of('b', 'NAV 120', '', { status: 'tobedeleted' }), {}, null)).toEqual([
      ['a', null],
    ]);
  });
});
