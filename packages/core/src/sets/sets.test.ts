/** A set: parts, three ways, and the way from one course to another. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { makeCourse } from '../course/course.ts';
import { courseOf, item, ruleOf } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import type { Wording } from '../wording/wording.ts';
import { isOneTerm, ruleThere, reverseMatches, unmatchedItem, copyMapping, wordingThere } from './copies.ts';
import { partsOfRule, partsOfWording, ruleOfParts, wordingOfParts } from './parts.ts';
import { compareParts, mergeParts, pickOf } from './threeWays.ts';
import { partTitle, rulePartWords } from './words.ts';

const rule = ruleOf();
const wording: Wording = {
  id: 'w',
  name: 'Warm',
  purpose: 'support',
  subject: 'Hello from NAV 120',
  text: 'See {{ link["lab-3"] }}.',
  variants: [{ subject: 'Hi', text: 'Hi' }],
  copies: [{ to: 'anyone', subject: 'About', text: 'About' }],
};

describe('parts', () => {
  test('are put together to the same document, and hold nothing that is each course’s own', () => {
    expect(ruleOfParts(rule, partsOfRule(rule))).toEqual(rule);
    expect(wordingOfParts(wording, partsOfWording(wording))).toEqual({ ...wording, files: [], letter: null });
    const other = { ...rule, id: 'other', status: 'paused', spellsFrom: 5 } as const;
    const audience = { ...rule.audience, sections: ['9'], except: ['s1'] };
    expect(compareParts(partsOfRule(rule), partsOfRule(rule), partsOfRule({ ...other, audience }))).toEqual([]);
  });
});

describe('three ways', () => {
  test('each part goes by where it was changed, and a conflict has nothing preset', () => {
    const lines = compareParts(
      { same: 1, taken: 1, kept: 1, conflict: 1, both: 1, gone: 1 },
      { same: 1, taken: 2, kept: 1, conflict: 2, both: 3, gone: 1, new: 1 },
      { same: 1, taken: 1, kept: 2, conflict: 3, both: 3 },
    );
    expect(lines.map((l) => [l.part, l.state])).toEqual([
      ['taken', 'taken'],
      ['kept', 'kept'],
      ['conflict', 'conflict'],
      ['gone', 'kept'],
      ['new', 'taken'],
    ]);
    expect(lines.map((l) => pickOf(l, {}))).toEqual(['here', 'there', null, 'there', 'here']);
    const there = { same: 1, taken: 1, kept: 2, conflict: 3, both: 3 };
    expect(mergeParts(there, lines)).toEqual({
      parts: { same: 1, taken: 2, kept: 2, conflict: 3, both: 3, new: 1 },
      open: ['conflict'],
    });
    expect(mergeParts(there, lines, { conflict: 'here', taken: 'there' })).toEqual({
      parts: { same: 1, taken: 1, kept: 2, conflict: 2, both: 3, new: 1 },
      open: [],
    });
  });

  test('by any values: who changed nothing loses nothing, and what only one side changed is in the result', () => {
    const parts = fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd'), fc.integer({ min: 0, max: 2 }));
    fc.assert(
      fc.property(parts, parts, parts, (origin, here, there) => {
        const merged = mergeParts(there, compareParts(origin, here, there));
        for (const part of ['a', 'b', 'c', 'd']) {
          const [o, h, t] = [origin[part], here[part], there[part]];
          const fate = h === t || o === h ? t : o === t ? h : t;
          expect(merged.parts[part]).toBe(fate);
          expect(merged.open.includes(part)).toBe(h !== t && o !== h && o !== t);
        }
        // The same change offered again to what took it is nothing new.
        expect(compareParts(here, here, here)).toEqual([]);
      }),
      runs(251, 300),
    );
  });

  test('a step that was taken out is out, and one more is the last', () => {
    const step = rule.steps[0]!;
    const longer = { ...rule, steps: [step, { ...step, after: { days: 3, hours: 0 } }] };
    const shorter = compareParts(partsOfRule(longer), partsOfRule(rule), partsOfRule(longer));
    expect(shorter).toMatchObject([{ part: 'steps[1]', state: 'taken' }]);
    expect(ruleOfParts(longer, mergeParts(partsOfRule(longer), shorter).parts)).toEqual(rule);
    const more = compareParts(partsOfRule(rule), partsOfRule(longer), partsOfRule(rule));
    expect(ruleOfParts(rule, mergeParts(partsOfRule(rule), more).parts)).toEqual(longer);
  });
});

describe('from one course to another', () => {
  const source = courseOf({ items: [item('lab-3', { title: 'Chart lab 3: bearings', kind: 'assignment' })] });
  const target = makeCourse({
    ...courseOf({ items: [item('l3', { title: 'Chart lab 3', kind: 'assignment' })] }),
    code: 'NAV 121',
    start: '2026-09-14',
  });

  test('[K3] what is only alike is proposed and no match before somebody said so; told goes both ways', () => {
    const way = copyMapping(source, target);
    expect(way.proposed).toEqual([{ from: 'lab-3', to: 'l3', how: 'alike' }]);
    const low = ruleOf({ when: { measure: 'score', item: 'lab-3', is: '<', value: 50 } });
    const unsaid = ruleThere(low, way, (w) => w);
    expect(unsaid.problems).toEqual([{ code: 'item', path: 'when.item', name: 'lab-3' }]);
    expect(unmatchedItem(way, 'lab-3')).toBe('Chart lab 3: bearings');
    const told = { 'lab-3': 'l3', gone: 'l9' };
    const said = ruleThere(low, copyMapping(source, target, told), () => 'other');
    expect(said.problems).toEqual([]);
    expect(said.rule).toMatchObject({ when: { item: 'l3' }, steps: [{ wording: 'other' }] });
    expect(reverseMatches({ 'lab-3': 'l3', q: null })).toEqual({ l3: 'lab-3' });
  });

  test('[K1] a rhythm is moved; in its own course a rule stays as it is', () => {
    const moved = ruleThere(rule, copyMapping(source, target), (w) => w).rule;
    expect(moved.rhythm.start.slice(0, 10) >= target.start).toBe(true);
    expect(ruleThere(rule, copyMapping(source, source), () => 'other').rule).toBe(rule);
  });

  test('[K7] a wording’s chips name the items there, and what it says of the one course alone is a field', () => {
    const there = wordingThere(wording, copyMapping(source, target, { 'lab-3': 'l3' }));
    expect(there).toMatchObject({ id: 'w', text: 'See {{ link["l3"] }}.' });
    expect(there.subject).toBe('Hello from {{ course.code }}');
  });

  test('courses are of one term where their runs share a day', () => {
    const run = (start: string, end: string) => ({ start, end });
    expect(isOneTerm(run('2026-09-01', '2026-12-18'), run('2026-12-18', '2027-04-01'))).toBe(true);
    expect(isOneTerm(run('2026-09-01', '2026-12-18'), run('2027-01-11', '2027-04-01'))).toBe(false);
  });

  test('parts have titles and words', () => {
    expect(['steps[1]', 'variants[0]', 'copies[contact:advisor]', 'when', 'x'].map(partTitle)).toEqual([
      'Step 2',
      'Text 2',
      'Text for advisor',
      'Who',
      'x',
    ]);
    const parts = partsOfRule({ ...rule, weight: 'light', essential: true });
    const words = Object.keys(parts).map((p) => rulePartWords(p, parts[p], source, (w) => w));
    expect(words.every((w) => !w.includes('[object'))).toBe(true);
    expect(rulePartWords('weight', 'light', source, (w) => w)).toBe('low');
    expect(rulePartWords('steps[0]', undefined, source, (w) => w)).toBe('');
  });
});
