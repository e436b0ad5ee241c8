import { describe, expect, test } from '@jest/globals';
import { at, factsOf, item, person } from '../testing/build.ts';
import { storyOf } from './story.ts';

const facts = factsOf({
  people: [
    person('p1'),
    person('p2', { section: '02' }),
    person('p3', { enrolledAt: at('2026-10-10T00:00') }),
    person('gone', { active: false }),
  ],
  items: [
    item('q1', { title: 'Tide quiz' }),
    item('syl', { title: 'Syllabus', kind: 'page', points: null }),
    item('talk', { title: 'Watch log', kind: 'forum', points: null }),
  ],
  events: [
    ['p1', 'signIn', '2026-09-01T09:59'],
    ['p1', 'visit', '2026-09-01T10:00'],
    ['p1', 'open', '2026-09-01T10:05', 'syl'],
    ['p1', 'visit', '2026-09-10T10:00'],
    ['p1', 'post', '2026-09-10T10:30', 'talk'],
    ['p2', 'visit', '2026-09-19T10:00'],
  ],
  grades: [
    ['p1', 'q1', 10, '2026-09-12T08:00'],
    ['p1', 'q1', 12, '2026-09-14T08:00'],
    ['p2', 'q1', 18, '2026-09-12T08:00'],
  ],
});
const { course } = facts;
const p = (id: string) => course.personIndex.get(id)!;
const now = at('2026-09-20T09:00');

describe('the story of a student', () => {
  test('[H1] [H2] has every act, the latest grade beside the class, and when they were last seen', () => {
    const story = storyOf(facts, p('p1'), now);
    expect(story.acts.map((a) => a.kind)).toEqual(['signIn', 'visit', 'open', 'visit', 'post']);
    expect(story.last).toEqual({
      visit: at('2026-09-10T10:30'),
      page: { item: 'syl', at: at('2026-09-01T10:05') },
      post: { item: 'talk', at: at('2026-09-10T10:30') },
    });
    // 60% and 90%: their mean is 75%.
    expect(story.grades).toEqual([{ item: 'q1', at: at('2026-09-14T08:00'), points: 12, score: 60, classMean: 75 }]);
  });

  test('[H3] as of an earlier instant it knows nothing of what came later', () => {
    const story = storyOf(facts, p('p1'), at('2026-09-13T00:00'));
    expect(story.grades).toMatchObject([{ points: 10, score: 50, classMean: 70 }]);
    expect(storyOf(facts, p('p1'), at('2026-09-01T10:02')).acts).toHaveLength(2);
    expect(storyOf(facts, p('p3'), now)).toMatchObject({
      acts: [],
      grades: [],
      last: { visit: null, page: null, post: null },
    });
  });

  test('[H7] has each item as it came out; somebody who is no active student has none', () => {
    expect(storyOf(facts, p('p1'), now).items).toMatchObject([{ item: 'q1', state: 'onTime', points: 12 }]);
    expect(storyOf(facts, p('gone'), now).items).toEqual([]);
  });
});
