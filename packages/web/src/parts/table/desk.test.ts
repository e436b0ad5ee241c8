import { beforeEach, expect, test } from '@jest/globals';
import type { Condition } from '@zest-bell/core/conditions';
import { course } from '../../testing/course.ts';
import { askLookout, deskOf, firstView, useDesks, type TableDesk } from './desk.ts';

const AWAY: Condition = { measure: 'daysSinceVisit', is: '>=', value: 5 };

beforeEach(() => {
  useDesks.setState({ desks: {} });
});

test('a course that was never looked at begins with presence, and with small charts', () => {
  const desk = deskOf(undefined, course);
  expect(desk).toEqual({ view: firstView(course), activity: true });
  expect(desk.view.columns.length).toBeGreaterThan(0);
});

test('what a browser kept of another release, and no longer fits, begins anew and keeps the rest', () => {
  const kept = { view: { columns: 'all' }, activity: false } as unknown as TableDesk;
  expect(deskOf(kept, course)).toEqual({ view: firstView(course), activity: true });
  const fits = { view: { ...firstView(course), when: AWAY }, activity: false };
  expect(deskOf(fits, course)).toEqual(fits);
});

test('a question from elsewhere sets the condition, keeps the columns, and lets all brushes go', () => {
  useDesks
    .getState()
    .set(1, {
      view: { ...firstView(course), columns: [], logBrushes: [{ log: 'nudgesThisTerm', brush: { kind: 'unknown' } }] },
      activity: false,
    });
  askLookout({ id: 1, course }, AWAY);
  expect(useDesks.getState().desks[1]).toMatchObject({
    view: { when: AWAY, columns: [], logBrushes: [], ruleBrushes: [] },
    activity: false,
  });
  expect(useDesks.getState().desks[2]).toBeUndefined();
});
