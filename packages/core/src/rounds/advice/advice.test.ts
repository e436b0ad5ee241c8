import { expect, test } from '@jest/globals';
import { at, courseOf, item, ruleOf } from '../../testing/build.ts';
import { adviceOn } from './advice.ts';

const course = courseOf({
  items: [item('q1', { title: 'Tide tables quiz', opensAt: at('2026-09-21T00:00'), dueAt: at('2026-09-27T23:59') })],
});
const until = { until: '2026-12-11' };
const rhythm = (rrule: string, more: object = until) => ({ start: '2026-09-08T09:30', rrule, ...more });
const advice = (draft: Record<string, unknown>, now = '2026-08-31T08:00') =>
  adviceOn(ruleOf({ rhythm: rhythm('FREQ=DAILY'), ...draft }), course, at(now)).map((a) => `${a.code}: ${a.message}`);
const steps = (...after: number[]) =>
  after.map((days) => ({ after: { days }, deliver: 'send', to: ['student'], wording: 'w' }));

test('“or” between two measures asks for a text that is right for both, and for a name that says so', () => {
  const any = [
    { measure: 'missing', is: '>=', value: 0 },
    { measure: 'absences', is: '>=', value: 0 },
  ];
  const words =
    'With “or”, a student may fit one condition and not the others: check that the text is right for each of them.';
  const rest = { rhythm: rhythm('FREQ=WEEKLY;BYDAY=TU') };
  expect(advice({ ...rest, name: 'Low, or away', when: { any } })).toEqual([`eitherWay: ${words}`]);
  expect(advice({ ...rest, name: 'Low and away', when: { any } })).toEqual([
    `eitherWay: ${words} The name still says “and”.`,
  ]);
  expect(advice({ ...rest, name: 'Low and away', when: { all: any } })).toEqual([]);
  expect(advice({ ...rest, when: { any: [any[0], { ...any[0], value: 1 }] } })).toEqual([]);
});

test('a rule whose numbers fit together gets none', () => {
  expect(advice({})).toEqual([]);
});

test.each([
  [
    'looked at every 5 days, 5 days away may be day 10 (common practice, no source)',
    { rhythm: rhythm('FREQ=DAILY;INTERVAL=5') },
    ['lateNotice: An absence of 5 days may be noticed as late as day 10. Looking every day notices it on day 5.'],
  ],
  [
    'looked at daily without a limit it nags on days 5, 6 and 7 (common practice, no source)',
    { repeat: {} },
    ['everyRound: Without a limit, the same student is nudged on days 5, 6, 7 and so on.'],
  ],
  ['a gap longer than the rhythm is a limit', { repeat: { gap: { days: 3 } } }, []],
  [
    'a first round before anyone can meet it',
    { rhythm: { ...rhythm('FREQ=DAILY'), start: '2026-09-01T09:30' } },
    ['beforeAnyone: This rule first runs on Tue Sep 1, but no student can match before Sat Sep 5.'],
  ],
  [
    'no end of its own',
    { rhythm: rhythm('FREQ=DAILY', {}) },
    ['noEnd: This rule has no last day of its own. It runs until the course ends on Dec 18.'],
  ],
  [
    'looked at every 5 days, 6 days away may be day 11',
    { rhythm: rhythm('FREQ=DAILY;INTERVAL=5'), when: { measure: 'daysSinceVisit', is: '>=', value: 6 } },
    [],
  ],
  [
    'looked at once a week, without a limit it is said every week and nobody minds',
    { rhythm: rhythm('FREQ=WEEKLY;BYDAY=TU'), when: { measure: 'missing', is: '>=', value: 0 }, repeat: {} },
    [],
  ],
  [
    'looked at every 5 days without a limit',
    { rhythm: rhythm('FREQ=DAILY;INTERVAL=5'), when: { measure: 'missing', is: '>=', value: 0 }, repeat: {} },
    ['everyRound: Without a limit, the same student is nudged at every check, every 5 days.'],
  ],
  [
    'looked at every day without a limit, no absence',
    { when: { measure: 'missing', is: '>=', value: 0 }, repeat: {} },
    ['everyRound: Without a limit, the same student is nudged at every check, every day.'],
  ],
  [
    'looked at every 3 hours without a limit',
    { rhythm: rhythm('FREQ=HOURLY;INTERVAL=3'), when: { measure: 'missing', is: '>=', value: 0 }, repeat: {} },
    ['everyRound: Without a limit, the same student is nudged at every check, several times a day.'],
  ],
  [
    'looked at every 2 days without a limit, an absence is nagged about at every check',
    { rhythm: rhythm('FREQ=DAILY;INTERVAL=2'), repeat: {} },
    ['everyRound: Without a limit, the same student is nudged at every check, every 2 days.'],
  ],
  [
    'a gap as long as the rhythm is no limit',
    { repeat: { gap: { days: 1 } } },
    ['everyRound: Without a limit, the same student is nudged on days 5, 6, 7 and so on.'],
  ],
  ['a gap an hour longer is one', { repeat: { gap: { hours: 25 } } }, []],
  ['a limit a term is one', { repeat: { perTerm: 3 } }, []],
  ['no days away at all are noticed in time', { when: { measure: 'daysSinceVisit', is: '>=', value: 0 } }, []],
  [
    'one day away, looked at every day',
    { when: { measure: 'daysSinceVisit', is: '>=', value: 1 } },
    ['lateNotice: An absence of 1 day may be noticed as late as day 2. Looking every day notices it on day 1.'],
  ],
  [
    'everyone has “not opened” what is not open',
    { when: { measure: 'opens', item: 'q1', is: 'equals', value: 0 } },
    [
      'notOpenYet: “Tide tables quiz” opens on Mon Sep 21; until then nobody can have opened it, and every student would be nudged.',
    ],
  ],
  [
    '“has submitted” is true of nobody then',
    { when: { measure: 'submitted', item: 'q1', is: 'equals', value: true } },
    [],
  ],
  ['“opened once” is true of nobody then', { when: { measure: 'opens', item: 'q1', is: 'equals', value: 1 } }, []],
  ['“opened at most 0 times” is not looked at', { when: { measure: 'opens', item: 'q1', is: '<=', value: 0 } }, []],
  [
    'no points at all are none of it',
    { when: { measure: 'points', item: 'q1', is: 'equals', value: 0 } },
    ['beforeAnyone: This rule first runs on Tue Sep 8, but no student can match before Mon Sep 21.'],
  ],
  ['another measure of none', { when: { measure: 'missing', is: 'equals', value: 0 } }, []],
  [
    'rounds begin with the day it opens',
    {
      when: { measure: 'submitted', item: 'q1', is: 'equals', value: false },
      rhythm: { ...rhythm('FREQ=DAILY'), start: '2026-09-21T00:00' },
    },
    [],
  ],
  [
    'rounds end within a day after the due instant',
    {
      when: { measure: 'hoursUntilDue', item: 'q1', is: '>', value: 0 },
      rhythm: { ...rhythm('FREQ=DAILY'), until: '2026-09-28' },
    },
    [],
  ],
  ['a distance as long as the gap', { repeat: { gap: { days: 5 } }, steps: steps(0, 5) }, []],
  [
    'a third step too close to the second',
    { repeat: { gap: { days: 5 } }, steps: steps(0, 5, 8) },
    ['gapLongerThanStep: Step 3 comes 3 days after the one before, but “at most every 5 days” holds it back.'],
  ],
  ['a term limit of as many nudges as steps', { repeat: { perTerm: 2 }, steps: steps(0, 5) }, []],
  [
    'everyone has “not submitted” what is not open',
    { when: { measure: 'submitted', item: 'q1', is: 'equals', value: false } },
    [
      'notOpenYet: “Tide tables quiz” opens on Mon Sep 21; until then nobody can have turned it in, and every student would be nudged.',
    ],
  ],
  [
    'rounds go on after the due instant',
    { when: { measure: 'hoursUntilDue', item: 'q1', is: '>', value: 0 } },
    ['afterAnyone: No student can match after Sun Sep 27, but this rule runs until Fri Dec 11.'],
  ],
  [
    'a step that the term limit never lets come',
    { repeat: { perTerm: 1 }, steps: steps(0, 5) },
    ['termTooShort: At most 1 nudge a term never comes to step 2.'],
  ],
  [
    'a gap longer than the distance of a step',
    { repeat: { gap: { days: 7 } }, steps: steps(0, 5) },
    ['gapLongerThanStep: Step 2 comes 5 days after the one before, but “at most every 7 days” holds it back.'],
  ],
])('%s', (_name, draft, expected) => {
  expect(advice(draft)).toEqual(expected);
});

test('a run that is over says that alone', () => {
  expect(advice({}, '2026-12-12T08:00')).toEqual([
    'noRoundLeft: This rule has no checks left. Choose a later last day.',
  ]);
});

const limited = (settings: object) => courseOf({ settings: { quietHours: null, budget: null, ...settings } });
const codes = (draft: Record<string, unknown>, of = limited({}), others: Parameters<typeof adviceOn>[3] = []) =>
  adviceOn(ruleOf({ rhythm: rhythm('FREQ=DAILY'), ...draft }), of, at('2026-08-31T08:00'), others).map((a) => a.code);

test('a strict budget keeps a later step from ever going, and that is said', () => {
  const strict = limited({ budget: { count: 1, days: 14, strict: true } });
  expect(codes({ steps: steps(0, 5) }, strict)).toContain('budgetStopsStep');
  expect(codes({ steps: steps(0, 14) }, strict)).not.toContain('budgetStopsStep');
  expect(codes({ steps: steps(0, 5) }, limited({ budget: { count: 1, days: 14 } }))).not.toContain('budgetStopsStep');
  expect(codes({ steps: steps(0, 5), essential: true }, strict)).not.toContain('budgetStopsStep');
});

test('a rule on ten days of absence sends nothing while one on five days uses up the budget', () => {
  const budget = limited({ budget: { count: 1, days: 14 } });
  const five = ruleOf({ id: 'five', rhythm: rhythm('FREQ=DAILY') });
  const ten = { when: { measure: 'daysSinceVisit', is: '>=', value: 10 } };
  expect(codes(ten, budget, [five])).toContain('budgetTaken');
  expect(codes(ten, limited({ budget: { count: 1, days: 5 } }), [five])).not.toContain('budgetTaken');
  expect(codes({ ...ten, weight: 'strong' }, budget, [five])).not.toContain('budgetTaken');
  expect(codes(ten, limited({}), [five])).not.toContain('budgetTaken');
  // Anyone who asks for more than the absence, or of others, does not take every student first.
  const low = { measure: 'courseGrade', is: '<', value: 70 } as const;
  expect(codes(ten, budget, [{ ...five, when: { all: [five.when, low] } }])).not.toContain('budgetTaken');
  expect(codes(ten, budget, [{ ...five, audience: { ...five.audience, sections: ['02'] } }])).not.toContain(
    'budgetTaken',
  );
  expect(codes(ten, budget, [{ ...five, status: 'paused' }])).not.toContain('budgetTaken');
});

test('rounds that come closer together than the budget allows, and rounds on quiet days, are said', () => {
  const twice = { rhythm: rhythm('FREQ=WEEKLY;BYDAY=TU,SU'), repeat: { perTerm: 4 } };
  expect(codes(twice, limited({ budget: { count: 1, days: 7 } }))).toContain('budgetBetweenRounds');
  expect(codes({ ...twice, repeat: { perSpell: 1 } }, limited({ budget: { count: 1, days: 7 } }))).not.toContain(
    'budgetBetweenRounds',
  );
  const saturdays = { rhythm: rhythm('FREQ=WEEKLY;BYDAY=SA') };
  expect(codes(saturdays, limited({ quietHours: { days: ['SA', 'SU'] } }))).toContain('quietRounds');
  expect(codes(saturdays, limited({ quietHours: { from: '21:00', to: '07:00' } }))).not.toContain('quietRounds');
});

test('a rule with the condition of one that is on is noticed, however it is written', () => {
  const twin = ruleOf({ id: 'twin', when: { all: [{ is: '>=', value: 5, measure: 'daysSinceVisit' }] } });
  expect(codes({}, limited({}), [twin])).toContain('sameCondition');
  expect(codes({}, limited({}), [{ ...twin, status: 'draft' }])).not.toContain('sameCondition');
  expect(codes({ audience: { roles: ['student'], sections: ['02'] } }, limited({}), [twin])).not.toContain(
    'sameCondition',
  );
});
