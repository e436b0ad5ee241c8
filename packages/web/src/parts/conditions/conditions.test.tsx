/** The conditions of a rule, nested as they are meant, moved by keys and said in words. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import type { Condition } from '@zest-bell/core/conditions';
import { at, course } from '../../testing/course.ts';
import '../../testing/patience.ts';
import { Conditions } from './Conditions.tsx';

afterEach(cleanup);

const away = { measure: 'daysSinceVisit', is: '>=', value: 5 } as const;
const low = { measure: 'score', item: 'q1', is: '<=', value: 50 } as const;
const missing = { measure: 'missing', is: '>=', value: 2 } as const;

function shown(start: Condition, remarks: readonly (readonly [string, string])[] = []) {
  const log: Condition[] = [];
  function Shown() {
    const [when, setWhen] = useState(start);
    return (
      <Conditions
        when={when}
        course={course}
        now={at('2026-09-14T09:00')}
        remarks={new Map(remarks)}
        onOpen={() => undefined}
        onChange={(next) => {
          log.push(next);
          setWhen(next);
        }}
      />
    );
  }
  render(<Shown />);
  return { log, user: userEvent.setup() };
}
const joiner = (words: string) => screen.getAllByRole('button', { name: new RegExp(`^${words}: change how`) })[0]!;
const choose = async (user: ReturnType<typeof userEvent.setup>, words: string) =>
  user.click(within(await screen.findByRole('menu')).getByText(words));

describe('how conditions join', () => {
  test('is changed for the whole group by its small word', async () => {
    const { log, user } = shown({ all: [away, low] });
    await user.click(joiner('and'));
    await choose(user, 'any of these is true (or)');
    expect(log).toEqual([{ any: [away, low] }]);
    await user.click(joiner('or'));
    await choose(user, 'none of these is true');
    expect(log.at(-1)).toEqual({ none: [away, low] });
  });

  test('in a group within a group, that group alone', async () => {
    const { log, user } = shown({ all: [away, { any: [low, missing] }] });
    await user.click(joiner('or'));
    await choose(user, 'all of these are true (and)');
    expect(log).toEqual([{ all: [away, { all: [low, missing] }] }]);
  });

  test('a group within is given up, and its conditions stand in the one around it', async () => {
    const { log, user } = shown({ all: [away, { any: [low, missing] }] });
    await user.click(joiner('or'));
    await choose(user, 'no group');
    expect(log).toEqual([{ all: [away, low, missing] }]);
  });
});

describe('one condition', () => {
  const grip = (of: RegExp) => screen.getByRole('button', { name: of });
  const AWAY = /^Move, group, copy or remove: .*visited the course/;

  test('is moved, copied and removed from the menu of its grip', async () => {
    const { log, user } = shown({ all: [away, low] });
    const take = async (item: RegExp) => {
      await user.click(screen.getAllByRole('button', { name: AWAY })[0]!);
      await user.click(within(await screen.findByRole('menu')).getByRole('menuitem', { name: item }));
    };
    await take(/^Move down/);
    await take(/^Copy/);
    await take(/^Remove/);
    expect(log).toEqual([{ all: [low, away] }, { all: [low, away, away] }, { all: [low, away] }]);
  });

  test('is moved by keys, and the focus goes with it', async () => {
    const { log, user } = shown({ all: [away, low, missing] });
    grip(AWAY).focus();
    await user.keyboard('{Alt>}{ArrowDown}{/Alt}');
    expect(log.at(-1)).toEqual({ all: [low, away, missing] });
    expect(document.activeElement).toBe(grip(AWAY));
    await user.keyboard('{Alt>}{ArrowUp}{/Alt}');
    expect(log.at(-1)).toEqual({ all: [away, low, missing] });
    await user.keyboard('{Delete}');
    expect(log.at(-1)).toEqual({ all: [low, missing] });
  });

  test('has what is said of it beside it', () => {
    shown({ all: [away, low] }, [['1', 'Nobody meets this today.']]);
    expect(screen.getByRole('note').textContent).toBe('▲ Nobody meets this today.');
  });

  test('is added to the group in which it is asked for', async () => {
    const { log, user } = shown(away);
    await user.click(screen.getAllByText('+ condition')[0]!);
    await user.click(await screen.findByRole('option', { name: /Missing items/ }));
    expect(log).toMatchObject([{ all: [away, { measure: 'missing' }] }]);
  });
});
