import { expect, test } from '@jest/globals';
import { storyWords } from './ExampleStrip.tsx';

test('what ends the example is said only where it happens while the rule runs', () => {
  const day = (date: string) => Date.parse(`${date}T16:00:00Z`);
  const line = { lastSeen: null, from: 0, until: 0, rounds: [], marks: [], isOver: true };
  const one = [[day('2026-10-27'), day('2026-11-01')]] as const;
  const words = (story: 'notDone' | 'missing' | 'away', more: object = {}) =>
    storyWords({ ...line, story, spells: one, ...more }, 'America/New_York');
  expect(words('notDone')).toBe('A student matches from Tue Oct 27 and does it on Sun Nov 1.');
  expect(words('notDone', { isOver: false })).toBe('A student matches from Tue Oct 27 and does not do it.');
  expect(words('missing')).toBe('A student matches from Tue Oct 27 and catches up on Sun Nov 1.');
  expect(words('away', { isOver: false, lastSeen: day('2026-10-22') })).toBe(
    'A student was last here on Thu Oct 22, so matches from Tue Oct 27, and does not come back.',
  );
});
