/** What is on its way when something changes is asked again: its answer may be of before. */
import { expect, test } from '@jest/globals';
import { QueryObserver } from '@tanstack/react-query';
import { queryClient, refreshAll } from './queries.ts';

test('an answer that was asked for before a change does not stand after it', async () => {
  let stored = 'before';
  const answers: (() => void)[] = [];
  const observer = new QueryObserver(queryClient, {
    queryKey: ['a course', 1],
    queryFn: () => {
      const seen = stored;
      return new Promise<string>((resolve) => answers.push(() => resolve(seen)));
    },
  });
  const stop = observer.subscribe(() => undefined);
  expect(answers).toHaveLength(1);
  stored = 'after';
  const refreshed = refreshAll();
  // The first answer comes late, when the change is done.
  answers[0]!();
  for (let i = 0; i < 50 && answers.length < 2; i++) await Promise.resolve();
  expect(answers).toHaveLength(2);
  answers[1]!();
  await refreshed;
  expect(observer.getCurrentResult().data).toBe('after');
  stop();
  queryClient.clear();
});
