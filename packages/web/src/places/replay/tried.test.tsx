/** What is tried out on Replay, beside what is saved. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { act, cleanup, screen, waitFor } from '@testing-library/react';
import type { RuleCard } from '@zest-bell/core/exchange';
import { ruleOf } from '../../testing/rule.ts';
import { useDrafts, draftKey } from '../../parts/rule/draft.ts';
import { hereOf } from '../../testing/here.ts';
import { inPage } from '../../testing/inPage.tsx';
import { network } from '../../testing/network.ts';
import { DRAFT, orderOf, SAVED, useTried, type TriedState } from './tried.ts';

const here = hereOf();
const saved = ruleOf();
const card = { rule: saved, version: 3 } as unknown as RuleCard;
const older = ruleOf({ when: { measure: 'daysSinceVisit', is: '>=', value: 3 } });

beforeEach(() => {
  network({
    'GET /courses/1/rules/quiet/versions': [
      { version: 3, rule: saved, savedAt: 0 },
      { version: 2, rule: { ...older, status: 'paused' }, savedAt: 0 },
    ],
  });
  useDrafts.setState({ drafts: {} });
});
afterEach(cleanup);

function shown(of: RuleCard | null = card, path = '/') {
  let seen!: TriedState;
  function Look() {
    seen = useTried(here, of);
    return null;
  }
  inPage(<Look />, { path, here });
  return { tried: () => seen, do: (change: (t: TriedState) => void) => act(() => change(seen)) };
}

describe('what is tried', () => {
  test('is what is saved until something of it is another', async () => {
    const { tried } = shown();
    await waitFor(() => expect(tried().versions.map((v) => v.version)).toEqual([2]));
    expect([tried().from, tried().isOther, tried().shown, tried().changed]).toEqual([SAVED, false, saved, null]);
    expect(orderOf(here, tried(), true)).toEqual({ rule: 'quiet', together: false });
  });

  test('a number that is changed is asked beside the saved rule, and changed back it is none', async () => {
    const { tried, ...of } = shown();
    of.do((t) => t.edit({ when: { measure: 'daysSinceVisit', is: '>=', value: 9 } }));
    expect(tried().isOther).toBe(true);
    expect(orderOf(here, tried(), true)).toMatchObject({ changed: { when: { value: 9 } } });
    expect(orderOf(here, tried(), false)).not.toHaveProperty('changed');
    of.do((t) => t.edit({ when: saved.when }));
    expect([tried().isOther, tried().changed]).toEqual([false, null]);
  });

  test('an earlier version begins with the status of now, and stands in the address', async () => {
    const { tried, ...of } = shown();
    await waitFor(() => expect(tried().versions).toHaveLength(1));
    of.do((t) => t.begin('2'));
    expect(tried().shown).toMatchObject({ status: 'on', when: { value: 3 } });
    expect(screen.getByLabelText('address').textContent).toBe('/?with=2');
    of.do((t) => t.reset());
    expect([tried().shown, screen.getByLabelText('address').textContent]).toEqual([saved, '/']);
  });

  test('a draft of the composer is offered only where it says something else', () => {
    const draft = { ...saved, name: 'Quieter' };
    useDrafts.setState({ drafts: { [draftKey(1, 'quiet')]: { rule: draft, version: 3 } } } as never);
    const { tried } = shown(card, `/?with=${DRAFT}`);
    expect([tried().draft?.name, tried().shown?.name, tried().from]).toEqual(['Quieter', 'Quieter', DRAFT]);
    cleanup();
    useDrafts.setState({ drafts: { [draftKey(1, 'quiet')]: { rule: saved, version: 3 } } } as never);
    const same = shown(card, `/?with=${DRAFT}`);
    expect([same.tried().draft, same.tried().from]).toEqual([null, SAVED]);
  });

  test('another budget is tried over the rule alone or all of them, and no budget is another one too', () => {
    const { tried, ...of } = shown(null);
    of.do((t) => t.setBudget(null));
    expect([tried().isOther, orderOf(here, tried(), true)]).toEqual([true, { rule: null, budget: null }]);
    expect(orderOf(here, tried(), false)).toEqual({ rule: null });
    of.do((t) => t.setBudget(undefined));
    expect(tried().isOther).toBe(false);
  });

  test('a rule that began late is replayed as if it had been on since a day that can be chosen', () => {
    const late = { rule: ruleOf({ rhythm: { start: '2026-10-05T09:30', rrule: 'FREQ=DAILY' } }), version: 1 };
    const { tried, ...of } = shown(late as unknown as RuleCard);
    expect(tried().since).toBe('2026-08-31');
    of.do((t) => t.setSince('2026-09-14'));
    expect(orderOf(here, tried(), false)).toMatchObject({ since: '2026-09-14' });
  });
});
