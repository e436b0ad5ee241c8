/**
 * Every measure against a plain reading of the engine page, on random histories: at random instants, and on both sides of
 * every step of its timeline. The plain evaluator shares no code with the measures.
 */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { EVENT_KINDS, NEEDS_ITEM, type ActivityEvent, type Grade } from '../../activity/event.ts';
import { History } from '../../activity/history.ts';
import { parseCondition, type Leaf } from '../../conditions/condition.ts';
import { valueOf } from '../../testing/pointwise.ts';
import { at, courseOf, item, person } from '../../testing/build.ts';
import { DAY, HOUR } from '../../time/instant.ts';
import { CATALOGUE } from '../catalogue/catalogue.ts';
import { HistoryFacts } from './facts.ts';
import { MEASURE_NAMES } from '../values/measure.ts';
import { changesOf, valueAt } from '../values/timeline.ts';
import { runs } from '../../testing/runs.ts';

const items = [
  item('q1', { group: 'Quizzes', dueAt: at('2026-10-05T23:59'), opensAt: at('2026-09-28T00:00') }),
  item('q2', { group: 'Quizzes', points: 10, dueAt: at('2026-10-12T23:59'), excused: ['p2'] }),
  item('lab', { group: 'Labs', kind: 'assignment', points: 30, dueAt: at('2026-10-12T23:59') }),
  item('lab2', {
    group: 'Labs',
    kind: 'assignment',
    dueAt: at('2026-10-19T17:00'),
    extensions: [{ person: 'p1', dueAt: at('2026-10-22T17:00') }],
  }),
  item('f1', { group: 'Forums', kind: 'forum', points: null, dueAt: at('2026-10-09T17:00') }),
  item('f2', { group: 'Forums', kind: 'forum', points: null, dueAt: at('2026-10-16T17:00') }),
  item('drill', { group: 'Practice', kind: 'practice', points: null, opensAt: at('2026-10-07T08:00') }),
  item('page', { kind: 'page', points: null }),
];
const people = [
  person('p1', { fields: { tutor: ' Ada ', level: '3.5', blank: ' ' } }),
  person('p2', { enrolledAt: at('2026-10-13T11:20') }),
  person('p3'),
];
const several = [{}, { group: 'Labs' }, { items: ['q1', 'f1', 'lab2'] }];
const windows = [
  {},
  { window: { this: 'week' } },
  { window: { last: { days: 5 } } },
  { window: { since: '2026-10-08' } },
];
const ofItem = [{ item: 'q1' }, { item: 'q2' }, { item: 'lab' }, { item: 'lab2' }];

/** The calls to try for each measure: every parameter, and its absence where it may be left out. */
const CALLS: Readonly<Record<(typeof MEASURE_NAMES)[number], readonly object[]>> = {
  daysSinceSignIn: [{}],
  daysSinceVisit: [{}],
  daysSinceParticipation: [{}],
  longestGap: windows,
  visits: windows,
  visitsVsClass: windows,
  visitsChange: [{ days: 3 }, { days: 14 }],
  postsChange: several.map((s) => ({ days: 4, ...s })),
  opens: [{ item: 'page' }, { item: 'page', window: { last: { days: 5 } } }],
  share: ['open', 'practice', 'submit', 'post'].flatMap((action) => several.map((s) => ({ of: action, ...s }))),
  submitted: ofItem,
  hoursUntilDue: ofItem,
  dueSoon: several.flatMap((s) => [
    { hours: 60, ...s },
    { days: 1, ...s },
  ]),
  missing: several,
  late: several,
  onTimeShare: several,
  daysAwaitingGrade: ofItem,
  score: ofItem,
  points: ofItem,
  criterion: [{ item: 'lab', criterion: 'Method' }],
  latestScore: several,
  daysSinceGrade: several,
  lowScores: several.map((s) => ({ than: 60, ...s })),
  highScores: [{ than: 60 }, { than: { mark: 'mastery' }, group: 'Labs' }],
  courseGrade: [{}],
  groupGrade: [{ group: 'Labs' }, { group: 'Quizzes' }],
  gradeVsClass: [{}, { item: 'q2' }, { group: 'Labs' }],
  gradeChange: [{ days: 4 }],
  posts: several.flatMap((s) => windows.map((w) => ({ ...s, ...w }))),
  streak: [
    { of: 'done', group: 'Forums' },
    { of: 'missed', group: 'Labs' },
  ],
  absences: windows,
  daysEnrolled: [{}],
  completed: [{}, { item: 'q2' }, { item: 'page' }],
  field: ['tutor', 'level', 'blank', 'none'].map((name) => ({ name })),
};

const FIRST = at('2026-10-01T00:00');
// Across the end of summer time on November 1, and a break.
const instant = fc.integer({ min: 0, max: 38 * 48 }).map((half) => FIRST + (half * HOUR) / 2);
const who = fc.constantFrom('p1', 'p2', 'p3');
const event: fc.Arbitrary<ActivityEvent> = fc
  .record({
    person: who,
    kind: fc.constantFrom(...EVENT_KINDS),
    what: fc.constantFrom(...items),
    at: instant,
    bare: fc.boolean(),
  })
  .map(({ person: p, kind, what, at: when, bare }) => ({
    person: p,
    kind,
    item: NEEDS_ITEM.has(kind) || (kind === 'complete' && !bare) ? what.id : null,
    at: when,
  }));
const grade: fc.Arbitrary<Grade> = fc.record({
  person: who,
  item: fc.constantFrom('q1', 'q2', 'lab', 'lab2', 'f1'),
  criterion: fc.constantFrom(null, null, 'Method'),
  points: fc.integer({ min: 0, max: 30 }),
  at: instant,
});

describe('[M3, M4, H6, H8] each measure is what the page says', () => {
  test.each(MEASURE_NAMES)(
    '%s',
    (measure) => {
      fc.assert(
        fc.property(
          fc.constantFrom(...CALLS[measure]),
          fc.array(event, { maxLength: 45 }),
          fc.array(grade, { maxLength: 12 }),
          fc.array(instant, { minLength: 4, maxLength: 4 }),
          fc.boolean(),
          (parameters, events, grades, moments, weighted) => {
            const course = {
              ...courseOf({ items, people, breaks: [{ from: '2026-10-10', to: '2026-10-14' }] }),
              groupWeights: weighted ? { Labs: 60, Quizzes: 40 } : null,
            };
            const history = new History(course);
            events.forEach((e) => history.addEvent(e));
            grades.forEach((g) => history.addGrade(g));
            const facts = new HistoryFacts(course, history);
            const leaf = { measure, ...parameters, is: 'filled' } as Leaf;
            expect(parseCondition(leaf)).toMatchObject({ ok: true });
            const wrong: object[] = [];
            people.forEach((p, i) => {
              const line = facts.timeline(i, leaf);
              const steps = changesOf(line);
              const edges = [...steps.slice(0, 8), ...steps.slice(-4)].flatMap((t) => [t - 1, t]);
              for (const t of [...moments, ...edges]) {
                if (t < Math.max(course.calendar.start, p.enrolledAt) || t > FIRST + 40 * DAY) continue;
                const plain = valueOf(leaf, p, course, { events, grades }, t);
                const fast = line.kind === 'none' ? 'notApplicable' : valueAt(line, t);
                if (fast !== plain) wrong.push({ p: p.id, t: new Date(t).toISOString(), parameters, fast, plain });
                facts.fact(i, leaf, t);
              }
            });
            expect(wrong).toEqual([]);
          },
        ),
        runs(7, 10),
      );
    },
    60_000,
  );
});

test('every measure has its words: a title, a label, a clause, and a merge field of its own', () => {
  const course = courseOf({ items, people });
  for (const name of MEASURE_NAMES) {
    const measure = CATALOGUE[name];
    expect(measure.name).toBe(name);
    for (const parameters of CALLS[name]) {
      const call = { measure: name, ...parameters };
      const clause = measure.clause({ is: '>=', value: '3', raw: 3 }, call, course);
      expect(`${clause.lead} ${clause.marked} ${measure.label(call, course)}`).not.toMatch(/undefined|null|NaN/);
    }
  }
  expect(new Set(MEASURE_NAMES.map((n) => CATALOGUE[n].mergeField)).size).toBe(MEASURE_NAMES.length);
});
