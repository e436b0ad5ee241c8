import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { at, courseOf, factsOf, item, person } from '../testing/build.ts';
import { verdictAt, type PlainHistory } from '../testing/pointwise.ts';
import { History } from '../activity/history.ts';
import { EVENT_KINDS, NEEDS_ITEM, type ActivityEvent, type Grade } from '../activity/event.ts';
import { ASK_NOTHING, LookoutTable } from '../lookout/table.ts';
import { HistoryFacts } from '../measures/facts/facts.ts';
import { contains, stretch, NEVER } from '../time/stretches.ts';
import { HOUR } from '../time/instant.ts';
import { allOf, anyOf, noneOf, truthFor } from './evaluate.ts';
import { spellAt } from './spells.ts';
import type { TruthStretches } from '../measures/values/truth.ts';
import { makeGroup, parseCondition, type Condition, type GroupKind, type Leaf } from './condition.ts';
import { evidenceAt } from './evidence.ts';
import { conditionSentence } from './sentence.ts';
import { runs } from '../testing/runs.ts';

describe('Kleene’s strong logic', () => {
  // Kleene, Introduction to Metamathematics (1952), §64, tables from memory: the same as SQL's (ISO/IEC 9075).
  const sidesOf =
    (yes: typeof NEVER, no: typeof NEVER): TruthStretches =>
    (_person, holds) =>
      holds ? yes : no;
  const [T, U, F] = [sidesOf(stretch(0, 1), NEVER), sidesOf(NEVER, NEVER), sidesOf(NEVER, stretch(0, 1))];
  const all = [T, U, F];
  const name = (x: TruthStretches) => (contains(x(0, true), 0) ? 'T' : contains(x(0, false), 0) ? 'F' : 'U');
  const table = (join: typeof allOf) => all.map((a) => all.map((b) => name(join([a, b]))).join('')).join(' ');

  test('[C3] and, or and not follow the three-valued tables', () => {
    expect(table(allOf)).toBe('TUF UUF FFF');
    expect(table(anyOf)).toBe('TTT TUU TUF');
    // Not any of them.
    expect(table(noneOf)).toBe('FFF FUU FUT');
    expect(all.map((a) => name(noneOf([a]))).join('')).toBe('FUT');
  });
});

describe('a condition over a history', () => {
  const quiz = item('q1', { points: 20 });

  test('[C3] an ungraded quiz is neither a low score nor, under none, a good one', () => {
    const facts = factsOf({ items: [quiz] });
    const low: Condition = { measure: 'score', item: 'q1', is: '<=', value: 50 };
    const now = at('2026-09-20T12:00');
    const { yes, no } = truthFor(facts, 0, low);
    expect({ yes, no }).toEqual({ yes: [], no: [] });
    expect(spellAt(facts, 0, { none: [low] }, now)).toBeNull();
    expect(spellAt(facts, 0, { measure: 'score', item: 'q1', is: 'empty' }, now)).not.toBeNull();
  });

  test('[H4] before the story every condition is unknown, empty too', () => {
    const facts = factsOf({ items: [quiz], people: [person('p1', { enrolledAt: at('2026-09-10T08:00') })] });
    const empty: Condition = { measure: 'score', item: 'q1', is: 'empty' };
    expect(spellAt(facts, 0, empty, at('2026-09-10T07:59'))).toBeNull();
    expect(spellAt(facts, 0, empty, at('2026-09-10T08:00'))).toEqual({ start: at('2026-09-10T08:00'), end: Infinity });
  });

  test('[H6] a measure of an item that does not count is unknown under empty and filled too', () => {
    const facts = factsOf({ items: [item('q1', { excused: ['p1'] })] });
    for (const is of ['empty', 'filled'] as const) {
      const { yes, no } = truthFor(facts, 0, { measure: 'score', item: 'q1', is });
      expect({ yes, no }).toEqual({ yes: [], no: [] });
    }
  });

  test('[C1] changing a mark changes every rule that uses it', () => {
    const story = { items: [quiz], grades: [['p1', 'q1', 15, '2026-09-15T08:00']] as const };
    const facts = factsOf(story);
    const below: Condition = { measure: 'score', item: 'q1', is: '<', value: { mark: 'mastery' } };
    expect(spellAt(facts, 0, below, at('2026-09-16T08:00'))).not.toBeNull();
    const eased = new HistoryFacts({ ...facts.course, marks: { mastery: 75 } }, facts.history);
    expect(spellAt(eased, 0, below, at('2026-09-16T08:00'))).toBeNull();
  });

  test('[C5] evidence names every leaf with its value, verdict and the fact behind it', () => {
    const facts = factsOf({
      items: [quiz],
      events: [['p1', 'visit', '2026-09-01T14:03']],
      grades: [['p1', 'q1', 9, '2026-09-15T08:00']],
    });
    const when: Condition = {
      any: [
        { measure: 'daysSinceVisit', is: '>=', value: 5 },
        { measure: 'score', item: 'q1', is: '<=', value: 50 },
      ],
    };
    expect(evidenceAt(facts, 0, when, at('2026-09-21T09:30'))).toEqual([
      {
        measure: 'daysSinceVisit',
        value: 19,
        is: '>=',
        threshold: 5,
        verdict: true,
        fact: { kind: 'last', what: 'visit', at: at('2026-09-01T14:03') },
      },
      {
        measure: 'score',
        item: 'q1',
        value: 45,
        is: '<=',
        threshold: 50,
        verdict: true,
        fact: { kind: 'score', points: 9, of: 20, at: at('2026-09-15T08:00') },
      },
    ]);
  });

  test('a condition reads as a sentence', () => {
    const { course } = factsOf({
      items: [item('q1', { title: 'Tide tables quiz' }), item('lab', { kind: 'assignment' })],
    });
    const words = (c: Condition) => conditionSentence(c, course);
    expect(
      words({
        all: [
          { measure: 'daysSinceVisit', is: '>=', value: 5 },
          { measure: 'score', item: 'q1', is: '<=', value: 50 },
        ],
      }),
    ).toBe('have not visited the course for 5 days and scored 50% or less on Tide tables quiz');
    expect(words({ measure: 'score', item: 'q1', is: '<', value: { mark: 'mastery' } })).toBe(
      'scored under the mastery score (80%) on Tide tables quiz',
    );
    expect(words({ measure: 'opens', item: 'q1', is: 'equals', value: 0 })).toBe('have never opened Tide tables quiz');
    expect(words({ none: [{ measure: 'submitted', item: 'lab', is: 'equals', value: true }] })).toBe(
      'do not match (have submitted lab)',
    );
  });
});

describe('reading a condition', () => {
  test('[C2] an empty group is refused, and every problem is said with its path', () => {
    const parsed = parseCondition(
      {
        all: [
          { any: [] },
          { measure: 'mood', is: '>=', value: 1 },
          { measure: 'score', is: '>=', value: 'x', extra: 1 },
        ],
      },
      'when',
    );
    expect(parsed.ok).toBe(false);
    const paths = parsed.ok ? [] : parsed.problems.map((p) => p.path);
    expect(paths).toEqual(
      expect.arrayContaining([
        'when.all[0].any',
        'when.all[1].measure',
        'when.all[2].item',
        'when.all[2].value',
        'when.all[2].extra',
      ]),
    );
  });

  test('[C1] a comparator must fit its measure, and empty takes no value', () => {
    expect(parseCondition({ measure: 'submitted', item: 'q', is: '>=', value: true }).ok).toBe(false);
    expect(parseCondition({ measure: 'missing', is: 'empty', value: 1 }).ok).toBe(false);
    expect(parseCondition({ measure: 'missing', is: '>=' }).ok).toBe(false);
    expect(parseCondition({ measure: 'missing', is: '>=', value: 2 }).ok).toBe(true);
  });
});

describe('the fast path', () => {
  const items = [
    item('quiz', { group: 'Quizzes', dueAt: at('2026-09-13T23:59') }),
    item('lab', { kind: 'assignment', group: 'Labs', points: 30, dueAt: at('2026-10-04T18:00') }),
    item('page', { kind: 'page', points: null }),
    item('forum', {
      kind: 'forum',
      group: 'Labs',
      points: null,
      dueAt: at('2026-11-01T12:00'),
      extensions: [{ section: '02', dueAt: at('2026-11-04T12:00') }],
      excused: ['p2'],
    }),
    item('class', { kind: 'session', group: 'Classes', points: null, dueAt: at('2026-09-24T17:00') }),
  ];
  const people = [
    person('p1'),
    person('p2', { section: '02' }),
    person('p3', { enrolledAt: at('2026-09-20T10:17'), section: '02' }),
  ];
  const minute = fc.integer({ min: at('2026-08-25T00:00') / 60_000, max: at('2026-12-18T00:00') / 60_000 });
  const instant = minute.map((m) => m * 60_000);
  const itemId = fc.constantFrom(...items.map((i) => i.id));
  const event: fc.Arbitrary<ActivityEvent> = fc
    .record({
      person: fc.constantFrom('p1', 'p2', 'p3'),
      kind: fc.constantFrom(...EVENT_KINDS),
      item: itemId,
      at: instant,
    })
    .map((e) => (NEEDS_ITEM.has(e.kind) ? e : { ...e, item: null }));
  const grade: fc.Arbitrary<Grade> = fc.record({
    person: fc.constantFrom('p1', 'p2', 'p3'),
    item: fc.constantFrom('quiz', 'lab'),
    criterion: fc.constant(null),
    points: fc.integer({ min: 0, max: 20 }),
    at: instant,
  });
  const number = fc.constantFrom('>=', '<=', '>', '<', 'equals', 'differs' as const);
  const leaf: fc.Arbitrary<Leaf> = fc.oneof(
    fc.record({
      measure: fc.constantFrom('daysSinceVisit' as const, 'daysSinceSignIn' as const),
      is: number,
      value: fc.integer({ min: 0, max: 12 }),
    }),
    fc.record({
      measure: fc.constant('opens' as const),
      item: itemId,
      is: number,
      value: fc.integer({ min: 0, max: 2 }),
    }),
    fc.record({
      measure: fc.constant('opens' as const),
      item: itemId,
      window: fc.constant({ last: { days: 9 } }),
      is: number,
      value: fc.integer({ min: 0, max: 2 }),
    }),
    fc.record({
      measure: fc.constant('submitted' as const),
      item: itemId,
      is: fc.constantFrom('equals', 'differs' as const),
      value: fc.boolean(),
    }),
    fc.record({
      measure: fc.constant('hoursUntilDue' as const),
      item: itemId,
      is: number,
      value: fc.integer({ min: -50, max: 50 }),
    }),
    fc.record({ measure: fc.constant('missing' as const), is: number, value: fc.integer({ min: 0, max: 3 }) }),
    fc.record({
      measure: fc.constant('missing' as const),
      group: fc.constant('Labs'),
      is: number,
      value: fc.integer({ min: 0, max: 2 }),
    }),
    fc.record({
      measure: fc.constant('score' as const),
      item: itemId,
      is: number,
      value: fc.oneof(fc.integer({ min: 0, max: 100 }), fc.constant({ mark: 'mastery' })),
    }),
    fc.record({
      measure: fc.constant('score' as const),
      item: itemId,
      is: fc.constantFrom('empty', 'filled' as const),
    }),
    fc.record({ measure: fc.constant('courseGrade' as const), is: number, value: fc.integer({ min: 0, max: 100 }) }),
    fc.record({
      measure: fc.constant('dueSoon' as const),
      hours: fc.constant(72),
      is: number,
      value: fc.integer({ min: 0, max: 2 }),
    }),
    fc.record({
      measure: fc.constant('dueSoon' as const),
      days: fc.integer({ min: 0, max: 3 }),
      is: number,
      value: fc.integer({ min: 0, max: 2 }),
    }),
    fc.record({
      measure: fc.constant('completed' as const),
      item: itemId,
      is: fc.constant('equals' as const),
      value: fc.boolean(),
    }),
    fc.record({ measure: fc.constant('gradeVsClass' as const), is: number, value: fc.integer({ min: -40, max: 40 }) }),
    fc.record({
      measure: fc.constant('visitsVsClass' as const),
      window: fc.constant({ this: 'week' as const }),
      is: number,
      value: fc.integer({ min: -100, max: 100 }),
    }),
    fc.record({
      measure: fc.constantFrom('visitsChange' as const, 'postsChange' as const),
      days: fc.integer({ min: 1, max: 6 }),
      is: number,
      value: fc.integer({ min: -2, max: 2 }),
    }),
    fc.record({
      measure: fc.constantFrom('late' as const, 'longestGap' as const),
      is: number,
      value: fc.integer({ min: 0, max: 4 }),
    }),
  );
  const tree: fc.Arbitrary<Condition> = fc.letrec<{ node: Condition }>((tie) => ({
    node: fc.oneof(
      { maxDepth: 3 },
      leaf,
      fc
        .tuple(fc.constantFrom<GroupKind>('all', 'any', 'none'), fc.array(tie('node'), { minLength: 1, maxLength: 3 }))
        .map(([kind, children]) => makeGroup(kind, children)),
    ),
  })).node;

  test('[C4][H3] agrees with a plain pointwise reading of the definitions, in whatever order events arrive', () => {
    fc.assert(
      fc.property(
        tree,
        fc.array(event, { maxLength: 40 }),
        fc.array(grade, { maxLength: 8 }),
        fc.array(instant, { minLength: 6, maxLength: 6 }),
        fc.boolean(),
        (when, events, grades, moments, weighted) => {
          const course = {
            ...courseOf({ items, people, breaks: [{ from: '2026-10-10', to: '2026-10-14' }] }),
            groupWeights: weighted ? { Labs: 60, Quizzes: 40 } : null,
          };
          const history = new History(course);
          const facts = new HistoryFacts(course, history);
          // Half before the first question, half after it: what was computed must notice.
          events.slice(0, 20).forEach((e) => history.addEvent(e));
          people.forEach((_, i) => truthFor(facts, i, when));
          events.slice(20).forEach((e) => history.addEvent(e));
          grades.forEach((g) => history.addGrade(g));
          const plain: PlainHistory = { events, grades };
          const wrong: object[] = [];
          people.forEach((p, i) => {
            const truth = truthFor(facts, i, when);
            const edges = [...truth.yes, ...truth.no].filter(Number.isFinite);
            for (const t of [...moments, ...edges.slice(0, 6), ...edges.slice(-6)]) {
              if (t > course.calendar.end) continue;
              const fast = contains(truth.yes, t) ? true : contains(truth.no, t) ? false : null;
              const begun = t >= Math.max(course.calendar.start, p.enrolledAt);
              const wanted = verdictAt(when, p, course, plain, t);
              if ((begun ? fast : null) !== wanted) wrong.push({ p: p.id, t, fast, wanted });
            }
          });
          expect(wrong).toEqual([]);
          // The table of students reads values at one instant, and finds the same students.
          for (const t of moments.filter((m) => m <= course.calendar.end)) {
            const table = new LookoutTable(facts, t);
            const { rows } = table.show({ ...ASK_NOTHING, when });
            const found = [...rows].map((row) => table.people[row]!).sort((a, b) => a - b);
            expect(found).toEqual(people.flatMap((p, i) => (verdictAt(when, p, course, plain, t) ? [i] : [])));
          }
        },
      ),
      runs(11, 40),
    );
  });

  test('[T2] an hour is exact: the deadline’s last 24 hours begin an hour later by the clock after summer time ends', () => {
    const facts = factsOf({ items: [item('f', { dueAt: at('2026-11-01T12:00') })] });
    const soon: Condition = { measure: 'hoursUntilDue', item: 'f', is: '<=', value: 24 };
    expect(spellAt(facts, 0, soon, at('2026-11-01T09:00'))?.start).toBe(at('2026-11-01T12:00') - 24 * HOUR);
    expect(at('2026-11-01T12:00') - 24 * HOUR).toBe(at('2026-10-31T13:00'));
  });
});

test('two bounds of one measure are said as one clause, whichever stands first', () => {
  const { course } = factsOf({});
  const grade = { measure: 'courseGrade' } as const;
  const [low, high]: Condition[] = [
    { ...grade, is: '>=', value: 50 },
    { ...grade, is: '<=', value: 70 },
  ];
  const late: Condition = { measure: 'late', is: '>=', value: 2 };
  const said = (...all: Condition[]) => conditionSentence({ all }, course);
  expect(said(low!, high!, late)).toMatch(/ between 50% and 70%.* and /);
  expect(said(high!, low!)).toMatch(/ between 50% and 70%/);
  expect(said(low!, late, high!)).not.toContain('between');
  expect(said(low!, { ...grade, is: '<', value: 70 })).not.toContain('between');
  expect(conditionSentence({ any: [low!, high!] }, course)).not.toContain('between');
  // Three bounds in a row are a pair and one more.
  expect(said(low!, high!, low!).match(/between/g)).toHaveLength(1);
});
