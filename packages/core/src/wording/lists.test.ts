import { expect, test } from '@jest/globals';
import { at, factsOf, item, person } from '../testing/build.ts';
import { fieldExamples } from './examples.ts';
import { ABOUT_NOTHING } from './fields.ts';
import { blocksOf, textOf } from './markup.ts';
import { dueSoonList, missingList, MOST_LINES, scoreList, topicList } from './lists.ts';

const due = (date: string) => at(`${date}T23:59`);
const facts = factsOf({
  people: [person('p1'), person('p2'), person('p3', { enrolledAt: at('2026-09-21T00:00') })],
  items: [
    item('page', {
      kind: 'page',
      title: 'Reading tide tables',
      topics: ['tides'],
      url: 'https://learn.saltmarsh.example/p',
    }),
    item('drill', { kind: 'practice', title: 'Tide drills', topics: ['tides'] }),
    item('later', { kind: 'practice', title: 'Late drills', topics: ['tides'], opensAt: at('2026-11-01T00:00') }),
    item('q1', { title: 'Tide quiz', dueAt: due('2026-09-13'), topics: ['tides'] }),
    item('lab', { kind: 'assignment', title: 'Lab 1', dueAt: due('2026-09-06'), topics: ['symbols'], points: 40 }),
    item('live', { kind: 'session', title: 'Chart table', dueAt: at('2026-09-09T10:00') }),
    item('next', { title: 'Next quiz', dueAt: due('2026-12-01') }),
  ],
  events: [['p2', 'submit', '2026-09-05T10:00', 'lab']],
  grades: [
    ['p1', 'q1', 9, '2026-09-15T08:00'],
    ['p1', 'lab', 36, '2026-09-10T08:00'],
  ],
});
const contextOf = (who: number) => ({ facts, person: who, at: at('2026-09-20T09:30') });
const read = (list: string | null) => list && textOf(blocksOf(list));

test('missing work stands the oldest first with its due date; a session that has passed cannot be handed in', () => {
  expect(read(missingList(contextOf(1), { measure: 'missing' }))).toBe('- Tide quiz, due Sun Sep 13');
  // [H7] A grade above zero makes an item done; [H6] what was due before the enrolment does not count.
  expect(missingList(contextOf(0), { measure: 'missing' })).toBeNull();
  expect(missingList({ ...contextOf(2), at: at('2026-09-22T09:30') }, { measure: 'missing' })).toBeNull();
});

test('missing work keeps to what the rule asks for', () => {
  expect(missingList(contextOf(1), { measure: 'missing', items: ['lab'] })).toBeNull();
});

test('what is due soon stands the first due first, with its day and time, until it is done', () => {
  const before = { ...contextOf(1), at: at('2026-09-05T09:30') };
  expect(read(dueSoonList({ ...before, person: 0 }, { measure: 'dueSoon', days: 8 }))).toBe(
    '- Lab 1, due Sun Sep 6, 11:59 PM\n- Tide quiz, due Sun Sep 13, 11:59 PM',
  );
  expect(read(dueSoonList({ ...before, at: at('2026-09-05T10:00') }, { measure: 'dueSoon', days: 8 }))).toBe(
    '- Tide quiz, due Sun Sep 13, 11:59 PM',
  );
  expect(dueSoonList(before, { measure: 'dueSoon', items: ['next'], days: 8 })).toBeNull();
});

test('recent scores stand the newest first', () => {
  expect(read(scoreList(contextOf(0)))).toBe('- Tide quiz: 45%\n- Lab 1: 90%');
  expect(scoreList(contextOf(1))).toBeNull();
});

test('a weak topic is one under the mastery score, with the pages and practice sets that are released', () => {
  expect(read(topicList(contextOf(0)))).toBe(
    '- tides: Reading tide tables (https://learn.saltmarsh.example/p), Tide drills',
  );
  expect(topicList(contextOf(1))).toBeNull();
});

test('a long list says how much more there is', () => {
  const items = Array.from({ length: 11 }, (_, i) => item(`w${i}`, { dueAt: due('2026-09-06') }));
  const many = factsOf({ people: [person('p1')], items });
  const lines = missingList({ facts: many, person: 0, at: at('2026-09-20T09:30') }, { measure: 'missing' })!.split(
    '\n',
  );
  expect(lines).toHaveLength(MOST_LINES + 1);
  expect(lines.at(-1)).toBe('- and 3 more');
});

test('what a field says of one student stands in one line, without addresses; what it cannot say is left out', () => {
  const sender = {
    name: 'A. Lind',
    signature: 'Ada',
    officeHours: '',
    bookingUrl: 'https://learn.saltmarsh.example/b',
  };
  const examples = fieldExamples({ ...contextOf(0), sender, about: ABOUT_NOTHING });
  expect(examples).toMatchObject({
    'student.score_list': 'Tide quiz: 45% · Lab 1: 90%',
    'student.topic_list': 'tides: Reading tide tables, Tide drills',
    'sender.booking': 'book a time with me',
  });
  expect(Object.keys(examples)).not.toContain('sender.office_hours');
  expect(Object.keys(examples)).not.toContain('item.title');
});
