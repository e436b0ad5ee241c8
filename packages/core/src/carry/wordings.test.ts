import { describe, expect, test } from '@jest/globals';
import { logColumnOf, measureColumnOf, ruleColumnOf, columnKey } from '../lookout/columns.ts';
import { NO_VIEW } from '../lookout/view.ts';
import { makeCourse } from '../course/course.ts';
import { at, courseOf, item } from '../testing/build.ts';
import type { Wording } from '../wording/wording.ts';
import { shiftBetween } from './shift.ts';
import { carryView } from './views.ts';
import { carryWordings, withChips } from './wordings.ts';

const source = courseOf({ items: [item('q1', { title: 'Tide quiz', dueAt: at('2026-09-14T23:59') }), item('q9')] });
const target = makeCourse({ ...courseOf(), start: '2027-01-11', end: '2027-04-30', items: [item('tide')] });
const items = new Map<string, string | null>([
  ['q1', 'tide'],
  ['q9', null],
]);
const finding = { source, items };
const wording = (id: string, more: Partial<Wording> = {}): Wording => ({
  id,
  name: id,
  purpose: 'support',
  subject: 'Hello',
  text: 'A word',
  variants: [],
  copies: [],
  files: [],
  letter: null,
  ...more,
});

describe('[K7] a wording', () => {
  test('that is there word for word is the target’s own; another of its id comes with “-2”', () => {
    const own = [wording('a'), wording('b'), wording('c', { text: 'See {{ link["q1"] }}' })];
    const there = [wording('a', { name: 'Called otherwise' }), wording('b', { text: 'Other' }), wording('b-2')];
    const carried = carryWordings(own, [...there, wording('c', { text: 'See {{ link["tide"] }}' })], finding);
    expect(carried.map((c) => [c.from, c.wording.id, c.isThere])).toEqual([
      ['a', 'a', true],
      ['b', 'b-3', false],
      ['c', 'c', true],
    ]);
  });

  test('names the items that match in its chips, and only there', () => {
    const text =
      '{{ link["q1"] }} {{ due[\'q1\'] | default: "soon" }} {{ link["q9"] }} link["q1"] {% if link["q1"] %}x{% endif %}';
    const [carried] = carryWordings([wording('a', { text })], [], finding);
    expect(carried!.wording.text).toBe(
      '{{ link["tide"] }} {{ due["tide"] | default: "soon" }} {{ link["q9"] }} link["q1"] {% if link["tide"] %}x{% endif %}',
    );
  });

  test('says of each of its texts what belongs to the old term, and takes the chips in their place', () => {
    const own = wording('a', {
      subject: 'NAV 120',
      text: 'Due September 14.',
      variants: [{ subject: 'Hello', text: 'In fall 2026' }],
      files: [{ id: 'f', name: 'Plan 2026.pdf', type: 'application/pdf', size: 1 }],
    });
    const [carried] = carryWordings([own], [], finding);
    expect(carried!.found.map((f) => [f.path, f.finds.map((x) => x.found), f.finds.map((x) => x.field)])).toEqual([
      ['subject', ['NAV 120'], ['course.code']],
      ['text', ['September 14'], ['due["tide"]']],
      ['variants[0].text', ['fall 2026'], [null]],
      ['files[0].name', ['2026'], [null]],
    ]);
    expect(withChips(own, carried!.found)).toMatchObject({
      subject: '{{ course.code }}',
      text: 'Due {{ due["tide"] }}.',
      variants: [{ text: 'In fall 2026' }],
      files: [{ name: 'Plan 2026.pdf' }],
    });
    expect(withChips(own, carried!.found, new Set(['subject']))).toMatchObject({ subject: 'NAV 120' });
  });
});

describe('[K7] a view', () => {
  const carriage = { source, target, items, shift: shiftBetween(source, target) };
  const score = (id: string) => measureColumnOf({ measure: 'score', item: id });

  test('comes without the columns that name nothing there, and says which', () => {
    const view = {
      ...NO_VIEW,
      columns: [score('q1'), score('q9'), logColumnOf('replied'), ruleColumnOf('a'), ruleColumnOf('b')],
      sort: [
        { by: columnKey(score('q1')), down: true },
        { by: columnKey(score('q9')), down: true },
        { by: 'name', down: false },
      ],
      ruleBrushes: [],
    };
    const carried = carryView(view, carriage, new Map([['a', 'a-2']]), new Map([['b', 'Behind']]));
    expect(carried.view.columns).toEqual([score('tide'), logColumnOf('replied'), ruleColumnOf('a-2')]);
    expect(carried.view.sort.map((s) => s.by)).toEqual([columnKey(score('tide')), 'name']);
    expect(carried.without).toHaveLength(2);
    expect(carried.without[1]).toBe('Behind');
  });

  test('keeps its condition where all that it names is there', () => {
    const when = (id: string) => ({ ...NO_VIEW, when: { measure: 'score', item: id, is: '<', value: 5 } as const });
    const carried = (id: string) => carryView(when(id), carriage, new Map(), new Map());
    expect(carried('q1').view.when).toMatchObject({ item: 'tide' });
    expect(carried('q9')).toMatchObject({ view: { when: null }, without: ['its condition'] });
  });
});
