/**
 * The starters on the demo's own students, eight weeks in: whom the engine finds is held to a plain reading of the same
 * conditions that shares no code. The demo is not the oracle here, only a course with a varied history.
 */
import { describe, expect, test } from '@jest/globals';
import { DAY } from '@zest-bell/core/time';
import { makeCourse, type Course } from '@zest-bell/core/course';
import { History } from '@zest-bell/core/activity';
import { HistoryFacts } from '@zest-bell/core/measures';
import { parseRule } from '@zest-bell/core/rules';
import { matchesAt } from '@zest-bell/core/rounds';
import { STARTERS } from '@zest-bell/core/starters';
import { unfoundedClaims } from '../../../core/src/testing/claims.ts';
import { verdictAt, type PlainHistory } from '../../../core/src/testing/pointwise.ts';
import { Campus } from '../campus/simulator.ts';
import { MET_RULES, MET_WORDINGS, NAV_RULES, NAV_WORDINGS } from './rules.ts';
import { OPENING, DEMO_COURSES, SET_UP_AT, SEED } from './saltmarsh.ts';

const MOMENTS = [OPENING - 21 * DAY, OPENING - 10 * DAY, OPENING - 2 * DAY, OPENING];

function played(course: Course, n: number): { facts: HistoryFacts; plain: PlainHistory } {
  const { habits, never } = DEMO_COURSES[n]!;
  const campus = new Campus(course, { seed: SEED, habits, never, letters: () => [] });
  const { events, grades } = campus.activity(SET_UP_AT, OPENING);
  const history = new History(course);
  const plain = {
    events: events.map(({ person, kind, item, at }) => ({ person, kind, item: item ?? null, at })),
    grades: grades.map(({ person, item, points, at }) => ({ person, item, criterion: null, points, at })),
  };
  for (const e of plain.events) history.addEvent(e);
  for (const g of plain.grades) history.addGrade(g);
  return { facts: new HistoryFacts(course, history), plain };
}

describe.each(DEMO_COURSES.map((p, n) => [p.parts.code, n] as const))('in %s', (_code, n) => {
  const course = makeCourse(DEMO_COURSES[n]!.parts);
  const { facts, plain } = played(course, n);
  const students = course.people.map((p, i) => ({ p, i })).filter(({ p }) => p.role === 'student' && p.active);

  test.each(STARTERS.map((s) => [s.title, s] as const))('%s', (_title, starter) => {
    for (const t of MOMENTS) {
      const built = starter.build(course, t);
      if (!built.ok) throw new Error(`The demo has no ${built.needs}`);
      const { when } = built.rule;
      const found = matchesAt(built.rule, facts, t).map((i) => course.people[i]!.id);
      const expected = students.filter(({ p }) => verdictAt(when, p, course, plain, t) === true).map(({ p }) => p.id);
      expect(found).toEqual(expected);
    }
  });
});

/** The texts of the demo's rules claim what the rules have found, as those of the starters do. */
describe.each([
  ['NAV 120', NAV_RULES, NAV_WORDINGS],
  ['MET 115', MET_RULES, MET_WORDINGS],
] as const)('the texts of %s', (_code, rules, wordings) => {
  test.each(rules.map((draft) => [(draft as { name: string }).name, draft] as const))('%s', (_name, draft) => {
    const parsed = parseRule(draft);
    if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
    for (const step of parsed.value.steps) {
      const wording = wordings.find((w) => w.id === step.wording)!;
      expect(unfoundedClaims(wording, parsed.value)).toEqual([]);
    }
  });
});
