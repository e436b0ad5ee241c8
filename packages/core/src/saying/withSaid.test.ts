import { expect, test } from '@jest/globals';
import { SAYING_COURSE } from '../testing/sayingCourse.ts';
import { ruleOf } from '../testing/build.ts';
import { say } from './say.ts';
import { withSaid } from './withSaid.ts';

const rule = ruleOf({
  rhythm: { start: '2026-10-05T10:15', rrule: 'FREQ=DAILY' },
  repeat: { perSpell: 1, perTerm: 4 },
});
const said = (text: string) => withSaid(rule, say(text, SAYING_COURSE, { start: rule.rhythm.start }).rule!);

test('what was said takes the place of what stood there, and the rest stays', () => {
  expect(said('at most once a week, weekdays')).toEqual({
    ...rule,
    rhythm: { ...rule.rhythm, rrule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR' },
    repeat: { perSpell: 1, perTerm: 4, gap: { days: 7, hours: 0 } },
  });
  expect(said('at every check').repeat).toEqual({ perSpell: null, perTerm: null, gap: null });
  expect(said('at 6 pm').rhythm).toEqual({ ...rule.rhythm, start: '2026-10-05T18:00' });
  expect(said('copy me').steps[0]!.to).toEqual(['student', 'instructor']);
});

test('steps that are new keep a distance', () => {
  expect(said('in 3 steps').steps.map((s) => s.after.days)).toEqual([0, 3, 6]);
});

test('one date that recurs runs to the end of the course', () => {
  const once = { ...rule, rhythm: { ...rule.rhythm, until: '2026-10-05' } };
  const { rule: weekdays } = say('weekdays', SAYING_COURSE, { start: once.rhythm.start });
  expect(withSaid(once, weekdays!).rhythm.until).toBeNull();
  const { rule: later } = say('at 6 pm', SAYING_COURSE, { start: once.rhythm.start });
  expect(withSaid(once, later!).rhythm.until).toBe('2026-10-05');
});
