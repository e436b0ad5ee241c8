import { expect, test } from '@jest/globals';
import type { FallingLine } from '@zest-bell/core/exchange';
import { at } from '../../testing/course.ts';
import { canBeWritten, fallingWords } from './fallingWords.ts';

const ZONE = 'America/New_York';
const line = (more: Partial<FallingLine>): FallingLine =>
  ({
    ruleName: 'Quiet',
    rounds: 3,
    usedBy: null,
    limit: 'perSpell',
    lastNudge: at('2026-09-05T09:30'),
    spellStart: at('2026-09-04T09:30'),
    since: at('2026-09-03T09:30'),
    ...more,
  }) as FallingLine;

test.each<[Partial<FallingLine>, RegExp]>([
  [{ reason: 'noAddress' }, /^No email address: “Quiet” could not nudge this student in 3 checks\.$/],
  [{ reason: 'bounced', rounds: 1 }, /came back: “Quiet” could not reach this student in 1 check\.$/],
  [{ reason: 'paused' }, /^Paused nudges: “Quiet” has skipped this student in 3 checks\.$/],
  [{ reason: 'budget' }, /used up by earlier messages: “Quiet” has held this student back/],
  [{ reason: 'budget', usedBy: { ruleName: null, at: 0 } }, /used up by a message by hand:/],
  [{ reason: 'budget', usedBy: { ruleName: 'Praise', at: 0 } }, /used up by “Praise”:/],
  [{ reason: 'limit' }, /nudged this student last on Sat Sep 5: already nudged this time\.$/],
  [{ reason: 'limit', limit: 'perTerm', lastNudge: null }, /nudged this student last: this term’s limit reached\.$/],
  [{ reason: 'oldSpell' }, /^Matches “Quiet” since Fri Sep 4, before the rule was turned on/],
  [{ reason: 'roundsMissed' }, /which has not run since Thu Sep 3\.$/],
])('%j is told as it is', (more, words) =>
  expect(fallingWords([line(more)], ZONE)).toEqual([expect.stringMatching(words)]),
);

test('of several rules the first is told and the others are named', () => {
  const lines = ['Quiet', 'Missing', 'Failing'].map((ruleName) => line({ reason: 'paused', ruleName }));
  expect(fallingWords(lines, ZONE)).toEqual([
    expect.stringMatching(/3 checks\. The same goes for “Missing” and “Failing”\.$/),
  ]);
});

test('each reason has a sentence, which tells the heaviest rule, and of equal ones the one that waits longest', () => {
  const since = (day: string) => at(`2026-09-${day}T09:30`);
  const lines = [
    line({ reason: 'noAddress', ruleName: 'Light', weight: 'light', since: since('01') }),
    line({ reason: 'paused', ruleName: 'Paused', weight: 'normal', since: since('02') }),
    line({ reason: 'noAddress', ruleName: 'Later', weight: 'strong', since: since('04') }),
    line({ reason: 'noAddress', ruleName: 'Heavy', weight: 'strong', since: since('03') }),
  ];
  expect(fallingWords(lines, ZONE)).toEqual([
    'No email address: “Heavy” could not nudge this student in 3 checks. The same goes for “Later” and “Light”.',
    'Paused nudges: “Paused” has skipped this student in 3 checks.',
  ]);
});

test('only a limit can be passed by hand', () => {
  const reasons = ['noAddress', 'bounced', 'paused', 'budget', 'limit', 'oldSpell', 'roundsMissed'] as const;
  expect(reasons.filter((reason) => canBeWritten(line({ reason })))).toEqual(['budget', 'limit']);
});
