import { expect, test } from '@jest/globals';
import { byUrgency } from './urgency.ts';

test('what passes soonest comes first, then the longest spell', () => {
  const lines = [
    { id: 'young', passesAt: null, spellStart: 30 },
    { id: 'soon', passesAt: 5, spellStart: 40 },
    { id: 'old', passesAt: null, spellStart: 10 },
    { id: 'sooner', passesAt: 2, spellStart: 50 },
    { id: 'soon and old', passesAt: 5, spellStart: 1 },
  ];
  expect(lines.toSorted(byUrgency).map((l) => l.id)).toEqual(['sooner', 'soon and old', 'soon', 'old', 'young']);
});
