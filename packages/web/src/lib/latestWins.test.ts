import { describe, expect, test } from '@jest/globals';
import { latestWins } from './latestWins.ts';

/** Computations that end when they are told to. */
function desk() {
  const begun: number[] = [];
  const said: string[] = [];
  const open = new Map<number, { readonly end: (answer: string) => void; readonly fail: (error: Error) => void }>();
  const asked = latestWins<number, string>(
    (question) =>
      new Promise((end, fail) => {
        begun.push(question);
        open.set(question, { end, fail });
      }),
    {
      answered: (answer, question) => said.push(`${question}: ${answer}`),
      failed: (error, question) => said.push(`${question}: ${(error as Error).message}`),
    },
  );
  const settled = () => new Promise((later) => setTimeout(later, 0));
  return {
    asked,
    begun,
    said,
    end: (question: number) => (open.get(question)!.end('yes'), settled()),
    fail: (question: number) => (open.get(question)!.fail(new Error('no')), settled()),
  };
}

describe('of questions that come while one is computed', () => {
  test('the newest alone is computed next', async () => {
    const { asked, begun, said, end } = desk();
    for (const question of [1, 2, 3, 4]) asked.ask(question);
    expect(begun).toEqual([1]);
    await end(1);
    expect(begun).toEqual([1, 4]);
    await end(4);
    expect(said).toEqual(['1: yes', '4: yes']);
    asked.ask(5);
    expect(begun).toEqual([1, 4, 5]);
  });

  test('the newest is computed although the one before has failed', async () => {
    const { asked, begun, said, fail, end } = desk();
    asked.ask(1);
    asked.ask(2);
    await fail(1);
    expect(begun).toEqual([1, 2]);
    await end(2);
    expect(said).toEqual(['1: no', '2: yes']);
  });

  test('none is computed, and nothing is told, once nobody asks any more', async () => {
    const { asked, begun, said, end } = desk();
    asked.ask(1);
    asked.ask(2);
    asked.stop();
    await end(1);
    asked.ask(3);
    expect(begun).toEqual([1]);
    expect(said).toEqual([]);
  });
});
