import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { ActivityEvent, Grade } from '../../activity/event.ts';
import { History } from '../../activity/history.ts';
import type { Condition } from '../../conditions/condition.ts';
import { HistoryFacts } from '../../measures/facts/facts.ts';
import { runWhole } from '../../time/inParts.ts';
import { at, courseOf, factsOf, item, person } from '../../testing/build.ts';
import { plainSigns } from '../../testing/plainSigns.ts';
import { runs } from '../../testing/runs.ts';
import { candidatesOf, conditionOf } from './candidates.ts';
import { populationOf } from './population.ts';
import { signStudents } from './students.ts';
import { signsInParts } from './signs.ts';

const FAILS: Condition = { measure: 'courseGrade', is: '<', value: 60 };
const END = at('2026-12-19T00:00');
const ids = (n: number, from = 0) => Array.from({ length: n }, (_, i) => `s${String(i + from).padStart(2, '0')}`);

/**
 * Worked out by hand: twelve students, the first six fail at last. By week four (Sep 28) the labs lab-1 and lab-2 were due. Those who
 * fail had handed in neither, but s05, who did both; those who pass did both, but s06, who did one, and s07, who did none.
 */
const labs = [
  item('lab-1', { kind: 'assignment', group: 'Labs', dueAt: at('2026-09-10T23:59') }),
  item('lab-2', { kind: 'assignment', group: 'Labs', dueAt: at('2026-09-24T23:59') }),
  item('exam', { group: 'Exams', dueAt: at('2026-12-10T12:00') }),
  item('reading', { kind: 'page', points: null, dueAt: at('2026-12-01T12:00') }),
];
const does = (who: string, what: string, when: string) => [who, 'submit', when, what] as const;
const handed = (who: readonly string[], what: string, when: string) => who.map((p) => does(p, what, when));
const facts = factsOf({
  people: [
    ...ids(12).map((id) => person(id)),
    person('gone', { active: false }),
    person('ada', { role: 'instructor' }),
  ],
  items: labs,
  events: [
    ...handed(['s05', 's06', 's08', 's09', 's10', 's11'], 'lab-1', '2026-09-09T10:00'),
    ...handed(['s05', 's08', 's09', 's10', 's11'], 'lab-2', '2026-09-23T10:00'),
  ],
  grades: ids(12).map((id, i) => [id, 'exam', i < 6 ? 8 : 18, '2026-12-12T10:00'] as const),
});
const BY = at('2026-09-28T00:00');
const of = (more: object = {}) => ({ facts, outcome: FAILS, at: END, by: BY, ...more });
const signs = runWhole(signsInParts([of()]));

describe('[S1] whom signs are read of', () => {
  test('active students whose story had begun and whose outcome is known, in roster order', () => {
    const { members, worried, well } = populationOf([of()]);
    expect([worried, well]).toEqual([6, 6]);
    expect(members.map((m) => [m.person, m.worried, m.fold])).toEqual(ids(12).map((_, i) => [i, i < 6, i % 5]));
    const late = factsOf({
      people: [...ids(6).map((id) => person(id)), ...ids(6, 6).map((id) => person(id, { enrolledAt: BY + 1 }))],
      items: labs,
      grades: ids(12).map((id) => [id, 'exam', 8, '2026-12-12T10:00'] as const),
    });
    expect(populationOf([{ ...of(), facts: late }])).toMatchObject({ worried: 6, well: 0 });
  });

  test('with fewer than five of either kind there are none', () => {
    const nobody: Condition = { measure: 'courseGrade', is: '<', value: 10 };
    expect(runWhole(signsInParts([of({ outcome: nobody })]))).toMatchObject({ tooFew: true, signs: [], pairs: [] });
  });
});

test('[M5] where only last visits are known, days since the last visit may be a sign, and nothing that counts visits', () => {
  const seen = factsOf({
    people: ids(12).map((id) => person(id)),
    items: labs,
    events: ids(12).map((id, i) => [id, 'lastVisit', i < 6 ? '2026-09-02T10:00' : '2026-09-26T10:00'] as const),
    grades: ids(12).map((id, i) => [id, 'exam', i < 6 ? 8 : 18, '2026-12-12T10:00'] as const),
  });
  const read = runWhole(signsInParts([{ ...of(), facts: seen }]));
  const measures = JSON.stringify(read.signs.map((sign) => sign.condition));
  // The sign-in that a last visit implies says the same.
  expect(measures).toMatch(/daysSince(Visit|SignIn)/);
  expect(measures).not.toMatch(/"visits"|visitsVsClass|longestGap/);
});

describe('[S2] what may be a sign', () => {
  const words = candidatesOf(facts.course, BY).map((c) => {
    const { measure, is, ...more } = conditionOf(c, 1);
    return [measure, is, more.group ?? more.item ?? more.of ?? JSON.stringify(more.window) ?? ''].join(' ').trim();
  });
  test('each in its order and with the direction that worries; groups in the order of their first item', () => {
    expect(words).toEqual([
      ...['daysSinceSignIn', 'daysSinceVisit', 'daysSinceParticipation', 'longestGap', 'missing'].map((m) => `${m} >=`),
      ...['missing >= Labs', 'missing >= Exams', 'late >=', 'absences >=', 'lowScores >=', 'daysSinceGrade >='],
      ...['visits <= {"last":{"days":7}}', 'visits <= {"last":{"days":14}}', 'visits <='],
      ...['share <= open', 'share <= practice', 'share <= submit', 'share <= post', 'onTimeShare <='],
      ...['onTimeShare <= Labs', 'onTimeShare <= Exams', 'posts <=', 'courseGrade <=', 'groupGrade <= Labs'],
      ...['groupGrade <= Exams', 'gradeVsClass <=', 'latestScore <=', 'gradeChange <='],
      ...['score <= lab-1', 'score <= lab-2', 'score <= exam', 'submitted equals lab-1', 'submitted equals lab-2'],
    ]);
  });
  test('nothing that is due later is undone yet, and no page ever is', () => {
    const undone = (by: number) =>
      candidatesOf(facts.course, by).flatMap((c) => (c.worry === 'undone' ? c.call.item : []));
    expect(undone(at('2026-09-10T23:59'))).toEqual(['lab-1']);
    expect(undone(END)).toEqual(['lab-1', 'lab-2', 'exam']);
  });
});

describe('[S3][S4][S5] thresholds, honest counts and their order', () => {
  const [first, second] = signs.signs;
  test('who was away for all four weeks: five of six found, one needlessly; and in each fifth the others teach the same', () => {
    expect(first!.condition).toEqual({ measure: 'daysSinceSignIn', is: '>=', value: 28 });
    expect(first!.counts).toEqual({ found: 5, missed: 1, needless: 1, leftAlone: 5 });
    expect(first!.honest).toEqual(first!.counts);
  });

  test('signs that find the same students stand under the first of them, in the order of the page', () => {
    const alike = (s: typeof first) =>
      s!.alike.map((c) => `${c.measure} ${c.group ?? c.item ?? c.of ?? ''} ${JSON.stringify(c.value)}`);
    expect(alike(first)).toEqual([
      ...['daysSinceVisit  28', 'daysSinceParticipation  28', 'missing  2', 'missing Labs 2', 'visits  0'],
      ...['share submit 0', 'onTimeShare  0', 'onTimeShare Labs 0', 'submitted lab-1 false'],
    ]);
  });

  test('the next finds s06 needlessly too: of a smaller J, and after it', () => {
    expect(second!.condition).toEqual({ measure: 'visits', window: { last: { days: 7 } }, is: '<=', value: 0 });
    expect(second!.honest).toEqual({ found: 5, missed: 1, needless: 2, leftAlone: 4 });
    expect(signs.signs).toHaveLength(2);
  });

  test('a threshold that only one fifth teaches does not find that fifth', () => {
    // Ten students, five of either kind; s00 alone of the worried has missed both labs, the others of them one.
    const odd = factsOf({
      people: ids(10).map((id) => person(id)),
      items: labs,
      events: [
        ...handed(ids(4, 1), 'lab-1', '2026-09-09T10:00'),
        ...handed(ids(5, 5), 'lab-1', '2026-09-09T10:00'),
        ...handed(ids(5, 5), 'lab-2', '2026-09-23T10:00'),
      ],
      grades: ids(10).map((id, i) => [id, 'exam', i < 5 ? 8 : 18, '2026-12-12T10:00'] as const),
    });
    const told = runWhole(signsInParts([{ ...of(), facts: odd }]));
    const undone = told.signs.find((s) => s.condition.item === 'lab-1' || s.alike.some((c) => c.item === 'lab-1'))!;
    // Undone lab-1 finds s00 alone; it has no threshold to learn, and is honest.
    expect(undone.counts).toEqual({ found: 1, missed: 4, needless: 0, leftAlone: 5 });
  });

  test('what tells nothing is left out altogether', () => {
    expect(signs.signs.every((s) => s.honest.found > s.honest.needless)).toBe(true);
  });
});

test('[S7] the first week in which it told four fifths as much, at the threshold of the day it is read', () => {
  // Nobody can be away for 28 days before week four; a week without a visit told more in week two than when it is read.
  expect(signs.signs.map((s) => s.firstWeek)).toEqual([4, 2]);
  expect(signs.weekly[0]!.map((j) => Math.round(36 * j))).toEqual([0, 0, 0, 24]);
  expect(signs.weekly[1]!.map((j) => Math.round(36 * j))).toEqual([0, 24, 0, 18]);
});

test('whom a sign finds, beside how it turned out, with the values it goes by', () => {
  const students = signStudents(of(), { measure: 'missing', is: '>=', value: 2 });
  expect(students.map((s) => [s.student, s.cell, s.values[0]])).toEqual([
    ...ids(5).map((id) => [id, 'found', 2]),
    ['s05', 'missed', 0],
    ['s06', 'leftAlone', 1],
    ['s07', 'needless', 2],
    ...ids(4, 8).map((id) => [id, 'leftAlone', 0]),
  ]);
});

describe('a plain reading of the page', () => {
  /** A course of chance: the same from the same number. */
  function courseFrom(seed: number) {
    let s = seed >>> 0;
    const next = (below: number) => {
      s = (Math.imul(s, 1664525) + 1013904223) >>> 0;
      return Math.floor((s / 4294967296) * below);
    };
    const many = 12 + next(18);
    const day = (n: number, hour = 10) => at('2026-08-31T00:00') + n * 86_400_000 + hour * 3_600_000;
    const kinds = ['quiz', 'assignment', 'forum', 'practice', 'page', 'session'] as const;
    const items = Array.from({ length: 3 + next(5) }, (_, i) =>
      item(`i${i}`, {
        kind: kinds[next(kinds.length)]!,
        group: [null, 'Labs', 'Quizzes'][next(3)]!,
        points: next(4) === 0 ? null : 10 + next(3) * 10,
        dueAt: next(5) === 0 ? null : day(3 + next(40), 23),
        opensAt: next(3) === 0 ? day(next(20)) : null,
        excused: next(4) === 0 ? [`s0${next(9)}`] : [],
        extensions: next(4) === 0 ? [{ person: `s0${next(9)}`, dueAt: day(20 + next(30)) }] : [],
      }),
    );
    const people = ids(many).map((id) =>
      person(id, next(6) === 0 ? { enrolledAt: day(next(25)) } : next(12) === 0 ? { active: false } : {}),
    );
    const events: ActivityEvent[] = [];
    const grades: Grade[] = [];
    for (const p of people) {
      const zeal = next(10);
      for (let n = 0; n < zeal * 3; n++) {
        const one = items[next(items.length)]!;
        const kind = (['visit', 'open', 'submit', 'post', 'signIn', 'practice', 'attend', 'absent'] as const)[next(8)]!;
        const of = kind === 'visit' || kind === 'signIn' ? null : one.id;
        events.push({ person: p.id, kind, item: of, at: day(next(60), next(24)) });
      }
      for (const one of items)
        if (one.points !== null && next(3) > 0)
          grades.push({
            person: p.id,
            item: one.id,
            criterion: null,
            points: Math.min(one.points, next(one.points) + zeal),
            at: day(next(70)),
          });
    }
    const course = courseOf({ people, items });
    const by = day(7 + next(45), next(24));
    return { course, events, grades, by, at: day(75) };
  }

  test('[S1][S2][S3][S4][S5][S6][S7] tells the same of random courses', () => {
    let signed = 0;
    let paired = 0;
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 2 ** 31 }), (seed) => {
        const { course, events, grades, by, at: read } = courseFrom(seed);
        const history = new History(course);
        for (const e of events) history.addEvent(e);
        for (const g of grades) history.addGrade(g);
        const told = runWhole(
          signsInParts([{ facts: new HistoryFacts(course, history), outcome: FAILS, at: read, by }]),
        );
        const { weekly: _weekly, ...fast } = told;
        expect(fast).toEqual(plainSigns(course, { events, grades }, FAILS, read, by));
        signed += told.signs.length;
        paired += told.pairs.length;
      }),
      runs(915, 12),
    );
    // Chance made something to tell.
    expect(signed).toBeGreaterThan(10);
    expect(paired).toBeGreaterThan(0);
  }, 120_000);
});
