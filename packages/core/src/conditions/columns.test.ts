import { describe, expect, test } from '@jest/globals';
import { contains } from '../time/stretches.ts';
import { at, factsOf, person } from '../testing/build.ts';
import { parseCondition } from './condition.ts';
import { truthFor } from './evaluate.ts';

const facts = factsOf({
  people: [
    person('p1', { fields: { tutor: ' Ada Lind ', room: '12', level: 3, sign: '+0.50', blank: '  ', street: 'Groß' } }),
  ],
});
const now = at('2026-09-10T12:00');

/** true, false, or null for unknown. */
function verdict(name: string, is: string, value?: unknown): boolean | null {
  const parsed = parseCondition({ measure: 'field', name, is, ...(value === undefined ? {} : { value }) });
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  const truth = truthFor(facts, 0, parsed.value);
  return contains(truth.yes, now) ? true : contains(truth.no, now) ? false : null;
}

describe('[C1] an imported column', () => {
  test.each([
    ['tutor', 'equals', 'ada lind', true],
    ['tutor', 'differs', ' ADA LIND', false],
    ['tutor', 'contains', 'LIN', true],
    ['tutor', 'contains', 'bo', false],
    ['room', 'equals', 12, true],
    ['room', 'equals', '12.0', true],
    ['room', '>=', '11', true],
    ['level', '<', 3, false],
    ['sign', 'equals', 0.5, true],
    ['sign', 'differs', 0.5, false],
    ['level', 'differs', 4, true],
    ['tutor', 'equals', 'Ada Lind', true],
    ['tutor', 'equals', 'Bo', false],
    ['tutor', 'differs', 'Bo', true],
    // Turned into capitals both would be GROSS.
    ['street', 'equals', 'groß', true],
    ['street', 'equals', 'gross', false],
    ['street', 'contains', 'ß', true],
    ['tutor', 'contains', ' lind ', true],
  ])('%s %s %j is %s, without regard to case and outer blanks', (name, is, value, expected) => {
    expect(verdict(name, is, value)).toBe(expected);
  });

  test('a number against a text is unknown, either way round, and so is a part of a number', () => {
    expect(verdict('tutor', '>=', 5)).toBeNull();
    expect(verdict('tutor', 'equals', 5)).toBeNull();
    expect(verdict('room', 'equals', 'twelve')).toBeNull();
    expect(verdict('room', 'contains', '1')).toBeNull();
    expect(verdict('tutor', 'contains', 1)).toBeNull();
    expect(verdict('tutor', 'differs', 1)).toBeNull();
    expect(verdict('room', 'differs', 'twelve')).toBeNull();
  });

  test('missing and blank are empty', () => {
    for (const name of ['blank', 'none']) {
      expect([verdict(name, 'empty'), verdict(name, 'filled'), verdict(name, 'equals', 'x')]).toEqual([
        true,
        false,
        null,
      ]);
    }
    expect(verdict('tutor', 'filled')).toBe(true);
  });

  test('a text takes no order, and every comparison but empty and filled takes a value', () => {
    const paths = (draft: object) => {
      const parsed = parseCondition({ measure: 'field', name: 'tutor', ...draft });
      return parsed.ok ? [] : parsed.problems.map((p) => p.path);
    };
    expect(paths({ is: '<', value: 'M' })).toEqual(['is']);
    expect(paths({ is: 'contains' })).toEqual(['value']);
    expect(paths({ is: 'equals', value: '  ' })).toEqual(['value']);
  });
});
