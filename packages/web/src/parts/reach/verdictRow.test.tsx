import { describe, expect, test } from '@jest/globals';
import { render } from '@testing-library/react';
import type { LeafEvidence } from '@zest-bell/core/conditions';
import type { Explained, WithheldReason } from '@zest-bell/core/rounds';
import { at } from '../../testing/course.ts';
import { VerdictRow, verdictOf } from './VerdictRow.tsx';

const ZONE = 'America/New_York';
const decision = (more: object): Explained =>
  ({ student: 's1', step: 0, to: [{ kind: 'student' }], evidence: [], ...more }) as unknown as Explained;
/** The longest that a pill beside a name may be. */
const SHORT = 24;

describe('what a check would do about a student', () => {
  test.each([
    [{ outcome: 'sent' }, null, 'would be nudged', null],
    [{ outcome: 'sent' }, 2, 'step 2 would be sent', null],
    [{ outcome: 'sent', to: [{ kind: 'contact' }] }, null, 'alert to others', null],
    [{ outcome: 'held' }, null, 'waits for you', null],
    [{ outcome: 'withdrawn', reason: 'inactive' }, null, 'canceled', expect.any(String)],
    [{ outcome: 'withheld', reason: 'noAddress' }, null, 'no email address', null],
    [{ outcome: 'withheld', reason: 'perTerm' }, null, 'limit reached', 'held back: this term’s limit reached'],
  ])('%j of step %j is “%s”', (more, step, words, reason) => {
    expect(verdictOf(decision(more), null, step)).toMatchObject({ words, reason });
  });

  test('names what used up the message budget in full', () => {
    const verdict = verdictOf(
      decision({ outcome: 'withheld', reason: 'budget' }),
      '“Quiet”, which comes first on Tue Oct 27',
    );
    expect(verdict.words).toBe('limit reached');
    expect(verdict.reason).toBe('held back: message budget used up by “Quiet”, which comes first on Tue Oct 27');
  });

  test('is short for every reason', () => {
    const reasons: WithheldReason[] = [
      'pending',
      'perSpell',
      'perTerm',
      'gap',
      'replied',
      'paused',
      'budget',
      'noAddress',
    ];
    for (const reason of reasons)
      expect(verdictOf(decision({ outcome: 'withheld', reason }), null).words.length).toBeLessThanOrEqual(SHORT);
  });
});

test('the row tells facts by their day, and the minute on hover', () => {
  const evidence = [
    {
      measure: 'daysSinceVisit',
      value: 5,
      is: '>=',
      threshold: 5,
      verdict: true,
      fact: { kind: 'last', what: 'visit', at: at('2026-09-10T21:14') },
    },
  ] as unknown as LeafEvidence[];
  const verdict = verdictOf(decision({ outcome: 'held' }), null);
  const { container } = render(<VerdictRow name="Zoë Lind" verdict={verdict} evidence={evidence} zone={ZONE} />);
  expect(container.textContent).toBe('Zoë Lindwaits for youlast visit Thu Sep 10 · 5 days');
  expect(container.querySelector('[title]')!.getAttribute('title')).toBe('last visit Thu Sep 10, 9:14 PM · 5 days');
});
