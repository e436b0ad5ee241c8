import { describe, expect, test } from '@jest/globals';
import { makeCourse, type Course } from '../course/course.ts';
import { at, courseOf, item, person, ruleOf } from '../testing/build.ts';
import { formatInstant } from '../time/instant.ts';
import { carry, type CarryOptions } from './carry.ts';

const quiz = (id: string, title: string, more: object = {}) => item(id, { title, kind: 'quiz', ...more });
const fall = courseOf({
  people: [person('p1', { section: '01' })],
  items: [
    quiz('q1', 'Tide quiz', { group: 'Quizzes', dueAt: at('2026-09-14T23:59'), excused: ['p1'] }),
    quiz('q9', 'Harbor quiz', { dueAt: at('2026-12-18T23:59') }),
    item('lab-3', { title: 'Chart lab 3: bearings', group: 'Labs' }),
  ],
});
const spring = (more: Partial<Course> = {}) =>
  makeCourse({
    ...courseOf({ people: [] }),
    code: 'NAV 120 S',
    timeZone: 'Europe/Berlin',
    start: '2027-01-11',
    end: '2027-04-30',
    items: [quiz('tide', 'Tide Quiz', { group: 'Quizzes' }), item('l3', { title: 'Chart lab 3' })],
    marks: {},
    ...more,
  });
const score = (id: string) => ({ measure: 'score', item: id, is: '<', value: 50 });
const carried = (draft: object, options: CarryOptions & { into?: Course; there?: string[]; of?: Course } = {}) => {
  const { into = spring(), there = [], of = fall, ...rest } = options;
  return carry(
    { course: of, rules: [ruleOf({ ...draft })] },
    { course: into, rules: there.map((id) => ruleOf({ id })) },
    rest,
  );
};
const ruleAfter = (...args: Parameters<typeof carried>) => carried(...args).rules[0]!;

describe('[K4] a rule that is carried', () => {
  test('rings for nobody: on and paused ones are paused, drafts drafts; what was of people there stays there', () => {
    for (const [status, after] of [
      ['on', 'paused'],
      ['paused', 'paused'],
      ['draft', 'draft'],
    ]) {
      const audience = { roles: ['student'], except: ['p1'] };
      const { rule } = ruleAfter({ status, audience, spellsFrom: '2026-09-20T00:00:00-04:00' });
      expect(rule).toMatchObject({ status: after, spellsFrom: null, audience: { except: [] } });
    }
  });

  test('keeps the sections that are there, reaches all where none is, and waits for a roster where nobody is', () => {
    const audience = { roles: ['student'], sections: ['01', '02'] };
    const with02 = spring({ people: [person('s', { section: '02' })] });
    expect(ruleAfter({ audience }, { into: with02 })).toMatchObject({
      rule: { audience: { sections: ['02'] } },
      problems: [],
    });
    const with03 = spring({ people: [person('s', { section: '03' })] });
    expect(ruleAfter({ audience }, { into: with03 })).toMatchObject({
      rule: { audience: { sections: [] } },
      problems: [{ code: 'sections', path: 'audience.sections', name: '01, 02' }],
    });
    const staff = spring({ people: [person('t', { role: 'instructor' })] });
    expect(ruleAfter({ audience }, { into: staff })).toMatchObject({
      rule: { audience: { sections: ['01', '02'] } },
      problems: [],
    });
  });

  test('gets the first free id behind its own, in its order', () => {
    expect(ruleAfter({}, { there: [] }).rule.id).toBe('away');
    expect(ruleAfter({}, { there: ['away'] }).rule.id).toBe('away-2');
    expect(ruleAfter({}, { there: ['away', 'away-2', 'away-3'] }).rule.id).toBe('away-4');
    const rules = ['b', 'a', 'a-2'].map((id) => ruleOf({ id }));
    const all = carry({ course: fall, rules }, { course: spring(), rules: [ruleOf({ id: 'a' })] });
    expect(all.rules.map((r) => r.rule.id)).toEqual(['b', 'a-2', 'a-2-2']);
  });
});

describe('[K5] what a rule names', () => {
  test('is the match there, and a problem where there is none, each at its place', () => {
    const when = { all: [score('q1'), score('q9'), { any: [{ measure: 'opens', item: 'lab-3', is: '<', value: 1 }] }] };
    const { rule, problems } = ruleAfter({ when });
    expect(rule.when).toMatchObject({ all: [{ item: 'tide' }, { item: 'q9' }, { any: [{ item: 'l3' }] }] });
    expect(problems).toEqual([{ code: 'item', path: 'when.all[1].item', name: 'q9' }]);
    const items = { measure: 'missing', items: ['q1', 'q9'], is: '>=', value: 1 };
    expect(ruleAfter({ when: items }).problems).toEqual([{ code: 'item', path: 'when.items[1]', name: 'q9' }]);
    const group = { measure: 'missing', group: 'Labs', is: '>=', value: 1 };
    expect(ruleAfter({ when: group }).problems).toEqual([{ code: 'group', path: 'when.group', name: 'Labs' }]);
    expect(ruleAfter({ when: { ...group, group: 'Quizzes' } }).problems).toEqual([]);
  });

  test('never becomes something else that has its id there', () => {
    const into = spring({ items: [item('q9', { title: 'A page', kind: 'page' })] });
    const { rule, problems } = ruleAfter({ when: score('q9') }, { into });
    expect(into.itemIndex.has((rule.when as { item: string }).item)).toBe(false);
    expect(problems).toMatchObject([{ code: 'item', name: 'q9' }]);
  });

  test('is told with its match, in the source’s order, and only where a rule names it', () => {
    expect(carried({ when: { all: [score('q9'), score('q1')] } }).items).toEqual([
      { from: 'q1', to: 'tide', how: 'title' },
      { from: 'q9', to: null, how: 'none' },
    ]);
    expect(carried({ when: score('q9') }, { told: { q9: 'tide' } }).items).toEqual([
      { from: 'q9', to: 'tide', how: 'told' },
    ]);
  });

  test('a rule that a file cannot hold takes no id there', () => {
    const rules = [ruleOf({ when: score('q9') }), ruleOf({})];
    const all = carry({ course: fall, rules }, { course: spring(), rules: [] }, { leaveOut: true });
    expect(all.rules.map((r) => [r.left, r.rule.id])).toEqual([
      [true, 'away'],
      [false, 'away'],
    ]);
  });
});

test('[K2] dates of a rule before and after: its rhythm, and what its windows begin with', () => {
  const since = (date: string) => ({ measure: 'visits', window: { since: date }, is: '<', value: 3 });
  const when = { all: [since('2026-08-31'), since('2026-09-14')] };
  const rhythm = { start: '2026-09-08T09:30', rrule: 'FREQ=WEEKLY;BYDAY=TU', until: '2026-12-18' };
  const { rule, dates, problems } = ruleAfter({ when, rhythm });
  expect(rule.when).toMatchObject({ all: [since('2027-01-11'), since('2027-01-25')] });
  expect(dates).toEqual([
    { what: 'rhythm.start', from: '2026-09-08T09:30', to: '2027-01-19T09:30' },
    { what: 'rhythm.until', from: '2026-12-18', to: '2027-04-30' },
    { what: 'when.all[0].window.since', from: '2026-08-31', to: '2027-01-11' },
    { what: 'when.all[1].window.since', from: '2026-09-14', to: '2027-01-25' },
  ]);
  expect(problems).toEqual([]);
  const short = spring({ end: '2027-01-22' });
  expect(ruleAfter({ when, rhythm: { ...rhythm, until: '2026-09-07' } }, { into: short })).toMatchObject({
    dates: [{}, { what: 'rhythm.until', from: '2026-09-07', to: null }, {}, {}],
    problems: [
      { code: 'dates', path: 'when.all[1].window.since', name: '2027-01-25' },
      { code: 'dates', path: 'rhythm.until', name: '2027-01-18' },
    ],
  });
});

test('[K2] whoever carries into the same term again has the rule as it was', () => {
  const rhythm = { start: '2026-09-08T09:30', rrule: 'FREQ=DAILY', until: '2026-11-30' };
  const { rule, dates } = ruleAfter({ when: score('q1'), rhythm }, { into: fall });
  expect(dates).toEqual([]);
  expect(rule).toEqual({ ...ruleOf({ when: score('q1'), rhythm }), status: 'paused' });
});

describe('[K6] items and settings', () => {
  test('items come along only where there are none: without their people, on the moved dates, late ones told', () => {
    const empty = spring({ items: [], end: '2027-04-29' });
    const { items, course, rules } = carried({ when: score('q9') }, { into: empty, withItems: true });
    expect(items).toEqual([
      { from: 'q1', to: 'q1', how: 'id' },
      { from: 'q9', to: 'q9', how: 'id', late: true },
      { from: 'lab-3', to: 'lab-3', how: 'id' },
    ]);
    expect(course.items.map((i) => i.dueAt && formatInstant(i.dueAt, course.timeZone))).toEqual([
      '2027-01-25T23:59:00+01:00',
      '2027-04-30T23:59:00+02:00',
      null,
    ]);
    expect(course.items[0]).toMatchObject({ excused: [], extensions: [], group: 'Quizzes' });
    expect(rules[0]).toMatchObject({ rule: { when: { item: 'q9' } }, problems: [] });
    expect(() => carried({}, { withItems: true })).toThrow(RangeError);
  });

  test('limits and weights come as a whole where there are none; of marks the target’s own value stays', () => {
    const of = makeCourse({
      ...fall,
      settings: { quietHours: { from: '22:00', to: '07:00' }, budget: { count: 2, days: 7 } },
      groupWeights: { Labs: 60, Quizzes: 40 },
      marks: { mastery: 80, pass: 60 },
    });
    const budget = { count: 1, days: 7 };
    const into = spring({ settings: { quietHours: null, budget }, marks: { mastery: 75, top: 95 } });
    const { settings, course } = carried({}, { of, into });
    expect(settings).toEqual([
      { what: 'quietHours', from: of.settings.quietHours, to: of.settings.quietHours, kept: 'source' },
      { what: 'budget', from: of.settings.budget, to: budget, kept: 'target' },
      { what: 'groupWeights', from: of.groupWeights, to: of.groupWeights, kept: 'source' },
      { what: 'marks.mastery', from: 80, to: 75, kept: 'target' },
      { what: 'marks.pass', from: 60, to: 60, kept: 'source' },
    ]);
    expect(course).toMatchObject({
      marks: { mastery: 75, pass: 60, top: 95 },
      groupWeights: { Labs: 60, Quizzes: 40 },
    });
    // Each as somebody chose it.
    const chosen = carried({}, { of, into, settings: { quietHours: false, budget: true, 'marks.pass': false } });
    expect(chosen.course).toMatchObject({ settings: { quietHours: null, budget: { count: 2, days: 7 } } });
    expect(chosen.course.marks).toEqual({ mastery: 75, top: 95 });
    expect(carried({}).settings).toEqual([
      ...['quietHours', 'budget', 'groupWeights'].map((what) => ({ what, from: null, to: null, kept: 'target' })),
      { what: 'marks.mastery', from: 80, to: 80, kept: 'source' },
    ]);
  });
});
