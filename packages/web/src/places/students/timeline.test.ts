import { describe, expect, test } from '@jest/globals';
import type { StudentAnswer, StudentLine } from '@zest-bell/core/exchange';
import type { StoryAct, StoryItem } from '@zest-bell/core/lookout';
import { at, course } from '../../testing/course.ts';
import { entriesOf, type TimelineEntry } from './timeline.ts';

const answer = (more: {
  readonly acts?: readonly StoryAct[];
  readonly items?: readonly Partial<StoryItem>[];
  readonly grades?: StudentAnswer['story']['grades'];
  readonly lines?: readonly StudentLine[];
  readonly rules?: readonly object[];
}): StudentAnswer =>
  ({
    student: 'p1',
    facts: [],
    lines: more.lines ?? [],
    rules: more.rules ?? [],
    story: { acts: more.acts ?? [], grades: more.grades ?? [], items: more.items ?? [] },
  }) as unknown as StudentAnswer;
const told = (given: StudentAnswer, notes: Parameters<typeof entriesOf>[3] = []): TimelineEntry[] =>
  entriesOf(course, '/c/1', given, notes);
const said = (entries: readonly TimelineEntry[]) => entries.map((e) => [e.lane, e.title, e.detail]);

describe('what a student did', () => {
  test('is one entry a day, with what they did and how often', () => {
    const act = (kind: StoryAct['kind'], when: string, item: string | null = null): StoryAct => ({
      kind,
      item,
      at: at(when),
    });
    const entries = told(
      answer({
        acts: [
          act('visit', '2026-09-05T09:00'),
          act('visit', '2026-09-05T23:59'),
          act('open', '2026-09-05T23:59', 'q1'),
          act('open', '2026-09-05T23:59', 'q1'),
          act('signIn', '2026-09-06T00:01'),
          act('absent', '2026-09-09T10:00', 's1'),
          act('open', '2026-09-10T08:00', 'gone'),
        ],
      }),
    );
    expect(said(entries)).toEqual([
      ['activity', 'In the course', 'opened an item that is gone'],
      ['activity', 'Absent', 'was absent from Harbor walk'],
      ['activity', 'Signed in', ''],
      ['activity', '2 visits', 'opened Tide tables quiz 2 times'],
    ]);
  });

  test('is turned in, late or on time, missing, or attended', () => {
    const entries = told(
      answer({
        items: [
          { item: 'q1', state: 'late', doneAt: at('2026-09-12T08:00'), dueAt: at('2026-09-11T23:00') },
          { item: 's1', state: 'onTime', doneAt: at('2026-09-09T10:00'), dueAt: at('2026-09-09T10:00') },
          { item: 'q2', state: 'missing', doneAt: null, dueAt: at('2026-09-18T23:00') },
        ],
      }),
    );
    expect(said(entries)).toEqual([
      ['work', 'Chart quiz is missing', 'due on this day'],
      ['work', 'Turned in Tide tables quiz', 'late, due Fri Sep 11, 11:00 PM'],
      ['work', 'Attended Harbor walk', ''],
    ]);
    expect(entries.map((e) => e.sign)).toEqual(['▲', '◷', '✓']);
  });

  test('is graded, in percent where the item has points, beside the class where that is known', () => {
    const grade = { item: 'q1', at: at('2026-09-13T08:00'), points: 15, score: 75, classMean: 80 };
    expect(told(answer({ grades: [grade] }))).toMatchObject([
      { title: '75% on Tide tables quiz', detail: 'class mean 80%', score: 75, classMean: 80 },
    ]);
    const plain = told(answer({ grades: [{ ...grade, score: null, classMean: null }] }));
    expect(plain).toMatchObject([{ title: '15 points on Tide tables quiz', detail: '' }]);
    expect(plain[0]).not.toHaveProperty('score');
  });
});

describe('what went to and fro', () => {
  const nudge = {
    kind: 'nudge',
    at: at('2026-09-14T09:30'),
    nudge: 7,
    ruleName: 'Quiet',
    subject: 'A word',
    state: 'sent',
    reason: null,
    evidence: [],
    toStudent: true,
  } as const;

  test.each([
    ['sent', true, 'Nudged by “Quiet”', '●'],
    ['sent', false, 'Others were told by “Quiet”', '○'],
    ['held', true, 'Waiting for you, from “Quiet”', '◆'],
    ['held', false, 'Waiting for you, from “Quiet”', '◆'],
    ['failed', true, 'Could not be sent, from “Quiet”', '○'],
    ['uncertain', true, 'Unclear whether it arrived, from “Quiet”', '●'],
  ] as const)('a nudge that is %s, to the student: %s', (state, toStudent, title, sign) => {
    expect(told(answer({ lines: [{ ...nudge, state, toStudent }] }))).toMatchObject([
      { title, sign, link: '/c/1/log?nudge=7', lane: 'messages' },
    ]);
  });

  test('replies, answers and returns are told with their words', () => {
    const entries = told(
      answer({
        lines: [
          { kind: 'reply', at: at('2026-09-15T09:00'), nudge: 7, from: 'Asta', text: '' },
          { kind: 'bounce', at: at('2026-09-15T08:00'), nudge: 7, from: 'a robot', text: 'no such user' },
          { kind: 'answer', at: at('2026-09-15T10:00'), nudge: 7, by: 'Ada', text: 'See you' },
          { kind: 'return', at: at('2026-09-15T11:00'), nudge: 7, what: 'opened Chart quiz' },
        ],
      }),
      [{ id: 3, at: at('2026-09-15T12:00'), text: 'Called her' }],
    );
    expect(entries.map((e) => [e.title, e.detail, e.quote ?? null])).toEqual([
      ['Your note', '', 'Called her'],
      ['Came back', 'opened Chart quiz', null],
      ['You answered', 'Ada', 'See you'],
      ['Replied', 'Asta', '(no text)'],
      ['Mail came back', 'a robot', 'no such user'],
    ]);
  });

  test('a rule lasts while it matches', () => {
    const spells = [
      { from: at('2026-09-05T09:30'), to: at('2026-09-08T12:00') },
      { from: at('2026-09-12T09:30'), to: null },
    ];
    expect(told(answer({ rules: [{ rule: 'away', name: 'Away', spells }] }))).toMatchObject([
      { to: null, detail: 'and still does', link: '/c/1/rules/away' },
      { to: at('2026-09-08T12:00'), detail: 'until Tue Sep 8' },
    ]);
  });
});
