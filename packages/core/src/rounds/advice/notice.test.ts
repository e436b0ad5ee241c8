import { describe, expect, test } from '@jest/globals';
import { courseCalendar } from '../../time/calendar.ts';
import { HOUR } from '../../time/instant.ts';
import { at, courseOf, factsOf, NEW_YORK, ruleOf } from '../../testing/build.ts';
import { previewComingRounds } from '../whatIf/lookAhead.ts';
import { noticeOf } from './notice.ts';
import { noticeWords } from './noticeWords.ts';

const calendar = (breaks: { from: string; to: string }[] = []) =>
  // Ends before summer time does, so that every day has 24 hours.
  courseCalendar({ timeZone: NEW_YORK, start: '2026-08-31', end: '2026-10-25', breaks });
const notice = (rrule: string, more: object = {}, breaks?: { from: string; to: string }[]) =>
  noticeOf({ start: '2026-08-31T09:30', rrule, skipBreaks: false, ...more }, calendar(breaks));

describe('[R12] a student whose spell starts at a random moment waits Σg² ÷ 2Σg on average and max g at most', () => {
  test('daily: half a day, and a day at most', () => {
    expect(notice('FREQ=DAILY')).toEqual({ mean: 12, longest: 24, overABreak: null, usual: 24, overAWeekend: false });
  });

  test('on weekdays: by hand, (4 × 24² + 72²) ÷ (2 × 168) hours over whole weeks, and three days over a weekend', () => {
    const n = notice('FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', { until: '2026-10-19' })!;
    expect(n.longest).toBe(72);
    expect(n.mean).toBeCloseTo((4 * 24 ** 2 + 72 ** 2) / (2 * 168), 9);
  });

  test('every five days: 5 days away may be heard of on day 10 (common practice, no source)', () => {
    expect(notice('FREQ=DAILY;INTERVAL=5')!.longest).toBe(5 * 24);
  });

  test('a break is told apart: its days do not count, and the wait by the clock is said beside', () => {
    const n = notice('FREQ=DAILY', { skipBreaks: true }, [{ from: '2026-09-14', to: '2026-09-20' }])!;
    expect(n).toMatchObject({ longest: 24, overABreak: 8 * 24 });
  });

  test.each([
    ['from Friday to Monday', 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', true],
    ['from Thursday to Monday', 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH', true],
    ['from Thursday to Tuesday', 'FREQ=WEEKLY;BYDAY=TU,WE,TH', true],
    ['from Wednesday to Monday', 'FREQ=WEEKLY;BYDAY=MO,TU,WE', false],
    ['from Friday to Wednesday', 'FREQ=WEEKLY;BYDAY=WE,TH,FR', false],
    ['from Thursday to Thursday', 'FREQ=WEEKLY;BYDAY=TH', false],
    ['from day to day', 'FREQ=DAILY', false],
    ['from Monday to Thursday and from Thursday to Monday', 'FREQ=WEEKLY;BYDAY=MO,TH', true],
    ['from Tuesday to Friday and from Friday to Tuesday', 'FREQ=WEEKLY;BYDAY=TU,FR', true],
  ])('the longest wait %s is a weekend’s or not', (_name, rrule, weekend) => {
    expect(notice(rrule)!.overAWeekend).toBe(weekend);
  });

  test('the usual gap is the most frequent one, of equally frequent ones the shorter', () => {
    // Sundays and Mondays from Monday, Aug 31: the gaps are 6, 1, 6, 1 … days.
    const usual = (until: string) => notice('FREQ=WEEKLY;BYDAY=MO,SU', { until })!.usual;
    expect(usual('2026-09-06')).toBe(6 * 24);
    expect(usual('2026-09-07')).toBe(24);
    expect(usual('2026-09-13')).toBe(6 * 24);
    expect(usual('2026-09-14')).toBe(24);
    expect(notice('FREQ=HOURLY;INTERVAL=23', { until: '2026-09-07' })!.usual).toBe(24);
    expect(notice('FREQ=HOURLY;INTERVAL=22', { until: '2026-09-07' })!.usual).toBe(22);
  });

  test('[R8] what is decided on a quiet day is heard when that is over', () => {
    const sentence = (settings: object) => {
      const rule = ruleOf({
        when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
        rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' },
      });
      return noticeWords(rule, courseOf({ settings }));
    };
    expect(sentence({})).toBe('A student is nudged on day 5.');
    // Decided on Saturday at 9:30, it leaves when Sunday is over; a spell may have begun on Friday at 9:30.
    expect(sentence({ quietHours: { days: ['SA', 'SU'] } })).toBe(
      'A student is nudged on day 5, or by day 8 over a weekend.',
    );
  });

  test('two rounds are enough for an answer', () => {
    expect(notice('FREQ=DAILY', { until: '2026-09-01' })).toMatchObject({ mean: 12, longest: 24, usual: 24 });
  });

  test('an hour by which a clock changes is no other rhythm', () => {
    const year = courseCalendar({ timeZone: NEW_YORK, start: '2026-10-30', end: '2026-11-02', breaks: [] });
    const n = noticeOf({ start: '2026-10-30T09:30', rrule: 'FREQ=DAILY', skipBreaks: false }, year)!;
    expect([n.usual, n.longest]).toEqual([24, 25]);
  });

  test('of several breaks the longest wait by the clock is said; one that begins or ends between two rounds counts in part', () => {
    const rounds = (...breaks: { from: string; to: string }[]) => notice('FREQ=DAILY', { skipBreaks: true }, breaks)!;
    const [week, day] = [
      { from: '2026-09-14', to: '2026-09-20' },
      { from: '2026-10-01', to: '2026-10-01' },
    ];
    expect(rounds(day)).toMatchObject({ longest: 24, overABreak: 48 });
    expect(rounds(week, day)).toMatchObject({ longest: 24, overABreak: 8 * 24 });
    // Rounds go on in the break: from 9:30 before it to 9:30 within it are 14.5 hours of course time.
    expect(notice('FREQ=DAILY', { until: '2026-09-14' }, [week])).toMatchObject({ longest: 24, overABreak: 24 });
    expect(notice('FREQ=DAILY;INTERVAL=14', { until: '2026-09-14' }, [week])!.longest).toBe(14 * 24 - 9.5);
  });

  test('one round says nothing', () => {
    expect(notice('FREQ=DAILY', { until: '2026-08-31' })).toBeNull();
  });
});

describe('[R12] the notice span in words', () => {
  const words = (rrule: string, more: object = {}, until = '2026-10-19') =>
    noticeWords(ruleOf({ rhythm: { start: '2026-08-31T09:30', rrule, until }, ...more }), factsOf().course);
  const away = (is: string, value: number) => ({ when: { measure: 'daysSinceVisit', is, value } });
  const score = { when: { measure: 'score', item: 'q1', is: '<=', value: 50 } };

  test.each([
    // Common practice, no source: daily looks hear of it on day 5, looks every 5 days may hear of it on day 10.
    ['FREQ=DAILY', {}, 'A student is nudged on day 5.'],
    ['FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', {}, 'A student is nudged on day 5, or by day 8 over a weekend.'],
    ['FREQ=DAILY;INTERVAL=5', {}, 'A student is nudged between day 5 and day 10.'],
    ['FREQ=WEEKLY;BYDAY=MO,TH', {}, 'A student is nudged between day 5 and day 8, or by day 9 over a weekend.'],
    ['FREQ=WEEKLY;BYDAY=TU', {}, 'A student is nudged between day 5 and day 12.'],
    ['FREQ=HOURLY;INTERVAL=3', score, 'A student is nudged within 3 hours.'],
    ['FREQ=DAILY', score, 'A student is nudged within a day.'],
    ['FREQ=HOURLY', score, 'A student is nudged within an hour.'],
    ['FREQ=HOURLY;INTERVAL=23', score, 'A student is nudged within a day.'],
    ['FREQ=DAILY', away('>', 5), 'A student is nudged on day 6.'],
    ['FREQ=DAILY', away('>', 5.5), 'A student is nudged on day 6.'],
    ['FREQ=DAILY', away('>=', 5.5), 'A student is nudged on day 6.'],
    ['FREQ=DAILY', away('<', 5), 'A student is nudged within a day.'],
    ['FREQ=DAILY', { when: { all: [away('>=', 3).when, away('>=', 9).when] } }, 'A student is nudged on day 9.'],
    ['FREQ=DAILY', { when: { all: [away('>=', 9).when, score.when] } }, 'A student is nudged on day 9.'],
    ['FREQ=DAILY', { when: { all: [score.when, { all: [away('>=', 9).when] }] } }, 'A student is nudged on day 9.'],
    ['FREQ=DAILY', { when: { any: [away('>=', 9).when, score.when] } }, 'A student is nudged within a day.'],
    ['FREQ=DAILY', { when: { none: [away('>=', 9).when] } }, 'A student is nudged within a day.'],
    ['FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', score, 'A student is nudged within a day, or within 3 days over a weekend.'],
    ['FREQ=WEEKLY;BYDAY=TU', score, 'A student is nudged within 7 days.'],
  ])('%s %j: %s', (rrule, more, expected) => {
    expect(words(rrule, more)).toBe(expected);
  });

  test('a first step that waits is counted in', () => {
    const steps = [{ after: { days: 2 }, deliver: 'send', to: ['student'], wording: 'w' }];
    expect(words('FREQ=DAILY', { steps })).toBe('A student is nudged on day 7.');
  });

  test('a break adds to the wait, and a rule without a round never runs', () => {
    const course = factsOf({ breaks: [{ from: '2026-10-10', to: '2026-10-14' }] }).course;
    const rhythm = { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' };
    expect(noticeWords(ruleOf({ rhythm }), course)).toBe('A student is nudged on day 5. A break adds to this.');
    const over = { rhythm: { ...rhythm, start: '2027-08-31T09:30' } };
    expect(noticeWords(ruleOf(over), course)).toBe('This rule never runs.');
  });

  test('a single look says who is found and who is not', () => {
    expect(words('FREQ=DAILY', {}, '2026-08-31')).toBe('This rule runs once. Students who match later are not found.');
  });
});

describe('[R10] a look ahead', () => {
  const facts = factsOf({ events: [['p1', 'visit', '2026-09-01T14:03']] });
  const rule = ruleOf();
  const now = at('2026-09-05T12:00');
  const days = (nudges: Parameters<typeof previewComingRounds>[2]) =>
    previewComingRounds([rule], facts, nudges, now, now + 4 * 24 * HOUR).map(
      (d) => `${new Date(d.round).getUTCDate()} ${d.outcome}`,
    );

  test('decides the coming rounds if nobody does anything more', () => {
    expect(days([])).toEqual(['7 sent', '8 withheld', '9 withheld']);
  });

  test('counts what was sent, takes what is queued to leave, and leaves held what is held', () => {
    const nudge = { rule: 'away', student: 'p1', round: at('2026-09-06T20:00'), step: 0, toStudent: true } as const;
    expect(days([{ ...nudge, state: 'queued' }])).toEqual(['7 withheld', '8 withheld', '9 withheld']);
    const spell = previewComingRounds([rule], facts, [{ ...nudge, state: 'held' }], now, now + 2 * 24 * HOUR);
    expect(spell.map((d) => d.reason)).toEqual(['pending']);
    const queued = previewComingRounds([rule], facts, [{ ...nudge, state: 'queued' }], now, now + 2 * 24 * HOUR);
    expect(queued.map((d) => d.reason)).toEqual(['perSpell']);
  });
});
