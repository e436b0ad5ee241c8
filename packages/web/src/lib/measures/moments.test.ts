/** A worker has no page.
 * @jest-environment node */
import { expect, jest, test } from '@jest/globals';
import { makeCourse, type CourseParts } from '@zest-bell/core/course';
import { History } from '@zest-bell/core/activity';
import { HistoryFacts, measureColumn, packColumn } from '@zest-bell/core/measures';
import { leavesOf } from '@zest-bell/core/conditions';
import { parseRule, type Rule } from '@zest-bell/core/rules';
import { NOTHING_LOGGED } from '@zest-bell/core/rounds';
import type { CourseAnswer } from '@zest-bell/core/exchange';
import { Moments } from './moments.ts';

const START = Date.parse('2026-09-01T00:00:00Z');
const course: CourseParts = {
  code: 'KNT 101',
  title: 'Knots and Splices',
  timeZone: 'America/New_York',
  start: '2026-09-01',
  end: '2026-12-18',
  breaks: [],
  groupWeights: null,
  marks: {},
  settings: { quietHours: null, budget: null },
  people: ['p1', 'p2'].map((id) => ({
    id,
    firstName: id,
    lastName: 'Lind',
    email: `${id}@saltmarsh.example`,
    role: 'student',
    section: null,
    active: true,
    enrolledAt: START,
    paused: false,
    contacts: [],
    fields: {},
  })),
  items: [],
};
const answer = course as CourseAnswer;
const parsed = parseRule({
  id: 'quiet',
  name: 'Quiet',
  status: 'on',
  audience: { roles: ['student'] },
  when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
  rhythm: { start: '2026-09-14T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO' },
  repeat: {},
  steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
});
const rule: Rule = (parsed as { value: Rule }).value;
const now = Date.parse('2026-09-14T13:30:00Z');

/** The measure of the rule as a server sends it, when these students visited at `now`. */
function sent(...visitors: string[]): ArrayBuffer {
  const history = new History();
  history.addEvents({
    people: visitors,
    kinds: visitors.map(() => 'visit' as const),
    items: visitors.map(() => null),
    times: visitors.map(() => now),
  });
  const column = measureColumn(leavesOf(rule.when)[0]!, new HistoryFacts(makeCourse(course), history), now);
  return new Uint8Array(packColumn(column)).buffer;
}
const matching = (moments: Moments, key: string) => {
  const result = moments.reach(key, rule, now, NOTHING_LOGGED, 10);
  return result?.ok ? result.reach.decisions.length : null;
};

test('an answer about an earlier moment that comes late does not take the place of the present one', () => {
  const moments = new Moments();
  moments.about('before', answer);
  moments.about('now', answer);
  moments.take('now', sent('p1'));
  moments.about('before', answer);
  moments.take('before', sent());
  expect(matching(moments, 'now')).toBe(1);
  expect(matching(moments, 'before')).toBe(2);
});

test('a moment that was let go says nothing, until it is asked for again', () => {
  const moments = new Moments();
  for (const key of ['a', 'b', 'c', 'd']) moments.about(key, answer);
  moments.take('a', sent());
  expect(matching(moments, 'a')).toBeNull();
  moments.about('a', answer);
  expect(matching(moments, 'a')).toBeNull();
  moments.take('a', sent());
  expect(matching(moments, 'a')).toBe(2);
});

test('what lies near a draft is looked at once nothing is asked for a while, part by part, and a newer draft takes its place', () => {
  jest.useFakeTimers();
  try {
    const moments = new Moments();
    moments.about('now', answer);
    moments.take('now', sent('p1'));
    expect(matching(moments, 'now')).toBe(1);
    expect(matching(moments, 'now')).toBe(1);
    // One draft is waited for, and nothing is done while questions come.
    expect(jest.getTimerCount()).toBe(1);
    jest.advanceTimersByTime(199);
    expect(jest.getTimerCount()).toBe(1);
    let parts = 0;
    while (jest.getTimerCount() > 0 && ++parts < 100) jest.advanceTimersToNextTimer();
    // 5 days, three lower and three higher; then it is done.
    expect(parts).toBe(7);
    expect(matching(moments, 'now')).toBe(1);
    // A draft that says nothing yet leaves nothing to look at.
    const broken = { ...rule, when: { measure: 'nothing' } } as unknown as Rule;
    expect(moments.reach('now', broken, now, NOTHING_LOGGED, 10)).toMatchObject({ ok: false });
  } finally {
    jest.useRealTimers();
  }
});
