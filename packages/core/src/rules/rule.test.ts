import { describe, expect, test } from '@jest/globals';
import { courseOf, item, person, ruleOf } from '../testing/build.ts';
import { courseProblems } from './names.ts';
import { parseRule } from './rule.ts';
import { plainRhythm, rhythmWords, rruleOf, runWords, withPlain } from './rhythmWords.ts';
import { courseCalendar } from '../time/calendar.ts';
import { ruleParts, ruleSentence } from './sentence.ts';

const draft = {
  id: 'drift',
  name: 'Drifting',
  status: 'on',
  audience: { roles: ['student'] },
  when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
  rhythm: { start: '2026-09-08T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR' },
  steps: [{ deliver: 'send', to: ['student'], wording: 'gentle' }],
};
const problems = (more: object) => {
  const parsed = parseRule({ ...draft, ...more });
  return parsed.ok ? [] : parsed.problems.map((p) => p.path).sort();
};

describe('reading a rule', () => {
  test('what is left out gets its default', () => {
    const parsed = parseRule(draft);
    expect(parsed.ok && parsed.value.repeat).toEqual({ perSpell: null, perTerm: null, gap: null });
    expect(parsed.ok && parsed.value.rhythm.skipBreaks).toBe(false);
  });

  test('all problems are said at once, each at its path', () => {
    expect(
      problems({
        name: ' ',
        rhythm: { start: 'soon', rrule: 'FREQ=DAILY;COUNT=2' },
        when: { all: [] },
        steps: [{ deliver: 'mail', to: ['everyone'], wording: 'x', colour: 1 }],
        mood: 1,
      }),
    ).toEqual([
      'mood',
      'name',
      'rhythm.rrule',
      'rhythm.start',
      'steps[0].colour',
      'steps[0].deliver',
      'steps[0].to[0]',
      'when.all',
    ]);
  });

  test('[R4] steps whose days or hours fall are refused', () => {
    const step = (days: number) => ({ ...draft.steps[0], after: { days } });
    expect(problems({ steps: [step(0), step(5), step(3)] })).toEqual(['steps[2].after']);
  });

  test('[R11a] one message about several goes to others alone', () => {
    const steps = (to: string[]) => [{ deliver: 'send', to, wording: 'w', together: true }];
    expect(parseRule({ ...draft, steps: steps(['instructor']) })).toMatchObject({
      ok: true,
      value: { steps: [{ together: true }] },
    });
    const refused = parseRule({ ...draft, steps: steps(['student', 'instructor']) });
    expect(refused).toMatchObject({
      ok: false,
      problems: [{ path: 'steps[0].together', code: 'togetherWithStudent' }],
    });
  });

  test('items, marks, sections and people that are not in the course are problems', () => {
    const course = courseOf({ items: [item('q1')], people: [person('p1', { section: '01' })] });
    const rule = ruleOf({
      when: { all: [{ measure: 'score', item: 'q2', is: '<', value: { mark: 'top' } }] },
      audience: { roles: ['student'], sections: ['09'], except: ['nobody'] },
    });
    expect(courseProblems(rule, course).map((p) => p.path)).toEqual([
      'audience.sections[0]',
      'audience.except[0]',
      'when.all[0].item',
      'when.all[0].value.mark',
    ]);
  });
});

describe('a rule as a sentence', () => {
  test('reads from rhythm to repeat limit', () => {
    const rule = ruleOf({
      rhythm: { start: '2026-09-08T09:30', rrule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', until: '2026-12-11' },
      repeat: { perSpell: 1, perTerm: 3, gap: { days: 7 } },
    });
    expect(ruleSentence(rule, courseOf())).toBe(
      'Look every weekday at 9:30 AM, Sep 8 to Dec 11, for students who have not visited the course for 5 days, ' +
        'and nudge each of them once each time, at most 3 times this term and at most every 7 days.',
    );
  });

  test('marks what the instructor has set, and nothing else', () => {
    const marked = ruleParts(ruleOf(), courseOf()).filter((part) => part.marked);
    expect(marked.map((part) => part.words)).toEqual([
      'every day at 9:30 AM',
      'Aug 31 to Dec 18',
      'students',
      'not visited the course for 5 days',
      'once each time',
    ]);
  });

  test('says from when spells count, and in how many steps', () => {
    const step = { deliver: 'send', to: ['student'], wording: 'w' };
    const rule = ruleOf({ spellsFrom: '2026-10-26T08:02:00-04:00', steps: [step, { ...step, after: { days: 5 } }] });
    expect(ruleSentence(rule, courseOf())).toContain(
      'for 5 days, only where that begins after Mon Oct 26, 8:02 AM, and nudge each of them once each time in 2 steps.',
    );
  });

  test('plain rhythms go to a recurrence rule and back; others stay as they are', () => {
    for (const text of [
      'FREQ=DAILY',
      'FREQ=DAILY;INTERVAL=3',
      'FREQ=WEEKLY;BYDAY=TU,SU',
      'FREQ=WEEKLY;INTERVAL=2;BYDAY=MO',
    ]) {
      const rhythm = { start: '2026-09-08T09:30', rrule: text };
      expect(rruleOf(plainRhythm(rhythm)!)).toBe(text);
    }
    expect(plainRhythm({ start: '2026-09-08T09:30', rrule: 'FREQ=MONTHLY;BYDAY=1MO,3MO' })).toBeNull();
    expect(plainRhythm({ start: '2026-09-08T09:30', rrule: 'FREQ=MONTHLY;BYDAY=5MO' })).toBeNull();
    expect(plainRhythm({ start: '2026-09-08T09:30', rrule: 'FREQ=MONTHLY;INTERVAL=2;BYDAY=1MO' })).toBeNull();
  });

  test('the run ends with the term, and says so where the rule would go on', () => {
    const rhythm = { start: '2026-09-08T09:30', rrule: 'FREQ=DAILY', until: '2026-12-11', skipBreaks: false };
    const run = (end: string, until: string | null = rhythm.until) =>
      runWords({ ...rhythm, until }, { start: '2026-08-31', end });
    expect(run('2026-12-18')).toBe('Sep 8 to Dec 11');
    expect(run('2026-11-13')).toBe('Sep 8 to Dec 11, 2026 (the term ends Nov 13)');
    expect(run('2026-11-13', null)).toBe('Sep 8 to Nov 13');
    expect(run('2026-09-01', null)).toBe('from Sep 8, 2026 (the term ends Sep 1)');
    expect(run('2026-09-01')).toBe('Sep 8, 2026 to Dec 11, 2026 (the term ends Sep 1)');
  });

  test('a single date is a rhythm of one day, and stops being one when it recurs', () => {
    const daily = { start: '2026-10-24T10:00', rrule: 'FREQ=DAILY', until: '2026-12-11', skipBreaks: false };
    const once = withPlain(daily, { every: 'once' });
    expect(once).toEqual({ ...daily, until: '2026-10-24' });
    expect([rhythmWords(once), runWords(once, courseOf())]).toEqual(['once, at 10 AM', 'on Oct 24']);
    expect(withPlain(once, { every: 'hour', interval: 3 })).toEqual({
      ...daily,
      rrule: 'FREQ=HOURLY;INTERVAL=3',
      until: null,
    });
  });

  test.each([
    ['FREQ=HOURLY', 'every hour from 9:30 AM'],
    ['FREQ=HOURLY;INTERVAL=2', 'every 2 hours from 9:30 AM'],
    ['FREQ=WEEKLY;INTERVAL=2;BYDAY=SU,TU', 'every 2 weeks on Tuesday and Sunday at 9:30 AM'],
    ['FREQ=MONTHLY;BYMONTHDAY=1', 'every month on day 1 at 9:30 AM'],
    ['FREQ=MONTHLY;BYDAY=1MO', 'every month on the first Monday at 9:30 AM'],
    ['FREQ=MONTHLY;BYDAY=-1FR', 'every month on the last Friday at 9:30 AM'],
    ['FREQ=YEARLY;BYMONTH=10;BYDAY=1MO', 'on a schedule of your own, at 9:30 AM'],
  ])('%s reads “%s”', (rrule, words) => {
    expect(rhythmWords({ start: '2026-09-08T09:30', rrule, skipBreaks: false })).toBe(words);
  });
});

describe('what comes from outside is bounded, so that reading and running it ends soon', () => {
  const problemsOf = (more: object) => {
    const parsed = parseRule({ ...draft, ...more });
    return parsed.ok ? [] : parsed.problems.map((p) => p.path);
  };
  const step = { deliver: 'send', to: ['student'], wording: 'w' };
  const leaf = { measure: 'visits', is: '>=', value: 1 };

  test.each([
    ['a delay of ages', { steps: [{ ...step, after: { days: 1e8 } }] }, 'steps[0].after.days'],
    ['a delay of endless hours', { steps: [{ ...step, after: { hours: 1e9 } }] }, 'steps[0].after.hours'],
    ['twenty thousand recipients', { steps: [{ ...step, to: Array(20_000).fill('student') }] }, 'steps[0].to'],
    ['ten thousand steps', { steps: Array(10_000).fill(step) }, 'steps'],
    ['a thousand conditions', { when: { any: Array(1000).fill(leaf) } }, 'when'],
    [
      'every minute of the day',
      { rhythm: { start: '2026-09-08T09:30', rrule: 'FREQ=DAILY;BYMINUTE=0,1,2' } },
      'rhythm.rrule',
    ],
    ['every second', { rhythm: { start: '2026-09-08T09:30', rrule: 'FREQ=HOURLY;BYSECOND=1' } }, 'rhythm.rrule'],
    [
      'a rule without end',
      { rhythm: { start: '2026-09-08T09:30', rrule: `FREQ=DAILY;BYYEARDAY=${'1,'.repeat(500)}1` } },
      'rhythm.rrule',
    ],
    ['a gap of ages', { repeat: { gap: { weeks: 1e6 } } }, 'repeat.gap.weeks'],
  ])('%s is refused', (_what, more, path) => {
    expect(problemsOf(more)).toContain(path);
  });

  test('breaks of any length cost a look-up a day counted', () => {
    const calendar = courseCalendar({
      timeZone: 'America/New_York',
      start: '2026-08-31',
      end: '2026-12-18',
      breaks: [{ from: '0206-01-01', to: '9999-12-31' }],
    });
    const from = performance.now();
    for (let n = 0; n < 20_000; n++) calendar.addCourseDays(calendar.start, n % 300);
    // Far more than it takes, and far less than a walk over eight thousand years would.
    expect(performance.now() - from).toBeLessThan(5000);
    expect(calendar.courseDaysBetween(calendar.start, calendar.end - 1)).toBe(0);
  });
});
