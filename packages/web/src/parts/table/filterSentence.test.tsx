/** Who is shown in a table, as one sentence: what it says, and what of it can be changed in its place. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { NO_VIEW, type LookoutView } from '@zest-bell/core/lookout';
import { hereOf } from '../../testing/here.ts';
import { inPage } from '../../testing/inPage.tsx';
import { network } from '../../testing/network.ts';
import { FilterSentence, logWords } from './FilterSentence.tsx';

afterEach(cleanup);

function shown(start: Partial<LookoutView>) {
  const log: Partial<LookoutView>[] = [];
  network({ 'GET /courses/1/rules': [{ rule: { id: 'quiet', name: 'Falling quiet' } }] });
  function Shown() {
    const [view, setView] = useState<LookoutView>({ ...NO_VIEW, ...start });
    const change = (part: Partial<LookoutView>) => {
      log.push(part);
      setView({ ...view, ...part });
    };
    return <FilterSentence here={hereOf()} view={view} onChange={change} />;
  }
  inPage(<Shown />);
  const sentence = () => screen.getByTestId('filter-sentence').textContent.replace(/\s+/g, ' ');
  return { log, sentence, user: userEvent.setup() };
}

const away = { measure: 'daysSinceVisit', is: '>=', value: 5 } as const;
const low = { measure: 'score', item: 'q1', is: '<=', value: 50 } as const;

describe('the sentence of a table', () => {
  test('is of all students until something is asked', () => {
    expect(shown({}).sentence()).toBe('All students + condition');
  });

  test('joins conditions, the log and rules', async () => {
    const { sentence } = shown({
      when: { all: [away, low] },
      logBrushes: [{ log: 'nudgesThisTerm', brush: { kind: 'range', low: 2, high: null } }],
      ruleBrushes: [{ rule: 'quiet', brush: { kind: 'range', low: 3, high: null } }],
    });
    await screen.findByText(/Falling quiet/);
    expect(sentence()).toMatch(
      /^Students who have not visited the course for 5 days and scored 50% or less on Tide tables quiz and .*2 or more times and match “Falling quiet” for 3 days/,
    );
  });

  test('says two bounds of one measure as one thing', () => {
    const bounds = [
      { ...low, is: '>=', value: 40 },
      { ...low, is: '<=', value: 70 },
    ] as const;
    expect(shown({ when: { all: bounds } }).sentence()).toMatch(/scored between 40% and 70% on Tide tables quiz/);
  });

  test('lets go of one condition, or of all', async () => {
    const { log, sentence, user } = shown({ when: { all: [away, low] } });
    await user.click(screen.getByRole('button', { name: /^Condition: not visited/ }));
    const pop = within(await screen.findByRole('dialog', { name: 'Condition' }));
    await user.click(pop.getByText('Remove this condition'));
    expect(log).toEqual([{ when: low }]);
    await user.keyboard('{Escape}');
    await user.click(screen.getByText('Show all students'));
    expect(sentence()).toMatch(/^All students/);
  });

  test('asks the log otherwise, or no more', async () => {
    const { log, user } = shown({ logBrushes: [{ log: 'nudgesThisTerm', brush: { kind: 'range', low: 2, high: 4 } }] });
    await user.click(screen.getByRole('button', { name: /^From the log/ }));
    const pop = within(await screen.findByRole('dialog', { name: 'From the log' }));
    await user.clear(pop.getByLabelText('to'));
    await user.type(pop.getByLabelText('to'), '9');
    expect(log.at(-1)).toEqual({ logBrushes: [{ log: 'nudgesThisTerm', brush: { kind: 'range', low: 2, high: 9 } }] });
    await user.click(pop.getByText('Remove this condition'));
    expect(log.at(-1)).toEqual({ logBrushes: [] });
  });
});

describe('what is asked of the log, in words', () => {
  test.each([
    [{ kind: 'range', low: 3, high: 3 }, 'exactly 3 times'],
    [{ kind: 'range', low: null, high: 2 }, '2 or fewer times'],
    [{ kind: 'range', low: 1, high: null }, '1 or more times'],
    [{ kind: 'range', low: 1, high: 4 }, '1 to 4 times'],
  ] as const)('%j', (brush, marked) => {
    expect(logWords({ log: 'nudgesThisTerm', brush }).marked).toBe(marked);
  });

  test('a yes or no is a sentence of its own', () => {
    const said = (log: 'cameBack' | 'replied', values: boolean[]) =>
      logWords({ log, brush: { kind: 'some', values } }).marked;
    expect([said('cameBack', [false]), said('replied', [false]), said('replied', [true, false])]).toEqual([
      'did not come back after their last nudge',
      'have not replied to a nudge',
      'were nudged at all',
    ]);
    expect(logWords({ log: 'lastNudge', brush: { kind: 'unknown' } }).marked).toBe('were never nudged');
  });
});
