/** What a sheet of people brings, said column by column before anything is taken. */
import { describe, expect, test } from '@jest/globals';
import type { ImportPreview } from '@zest-bell/core/imports';
import { groupsOf, groupWords, type ColumnGroup } from './sheetGroups.ts';

const column = (header: string, as: string, more: object = {}) => ({ header, as, isNew: false, ...more });

function preview(columns: readonly object[], more: object = {}): ImportPreview {
  const nothing = { people: 0, grades: 0, excused: 0, marks: 0, done: 0, seen: 0 };
  return {
    columns,
    tally: nothing,
    offered: { people: 0, items: 0 },
    leftOut: 0,
    differs: 0,
    cut: null,
    refused: [],
    ...more,
  } as unknown as ImportPreview;
}

function said(group: ColumnGroup, seen: ImportPreview): string {
  const columns = groupsOf(seen).find((g) => g.group === group)?.columns ?? [];
  return groupWords(seen, group, columns);
}

describe('the columns of a sheet', () => {
  test('stand in groups, each in the order of the sheet, and only those that have any', () => {
    const seen = preview([
      column('Quiz 1', 'grade'),
      column('Name', 'field'),
      column('Total', 'leftOut', { leftOut: 'total' }),
      column('Quiz 2', 'grade'),
    ]);
    expect(groupsOf(seen).map((g) => [g.group, g.columns.map((c) => `${c.place} ${c.header}`)])).toEqual([
      ['person', ['1 Name']],
      ['grade', ['0 Quiz 1', '3 Quiz 2']],
      ['leftOut', ['2 Total']],
    ]);
  });

  test('of grades say which items are new, and that these have no due date', () => {
    const fresh = (header: string, itemKind: string) => column(header, 'grade', { isNew: true, itemKind });
    const tally = { grades: 84, excused: 2 };
    const several = [fresh('Lab 1', 'assignment'), fresh('Quiz 1', 'quiz'), fresh('Quiz 2', 'quiz')];
    expect(said('grade', preview(several, { tally }))).toBe(
      '3 items are new: 1 assignment and 2 quizzes, none has a due date. 84 grades and 2 excused.',
    );
    expect(said('grade', preview([fresh('Drill', 'practice')], { tally }))).toBe(
      '1 item is new: 1 for practice, without a due date. 84 grades and 2 excused.',
    );
    expect(said('grade', preview([column('Quiz 1', 'grade')]))).toBe('Nothing new.');
  });

  test('of attendance have no due date to speak of', () => {
    const session = column('Sep 9', 'attendance', { isNew: true, itemKind: 'session' });
    expect(said('attendance', preview([session], { tally: { marks: 40 } }))).toBe(
      '1 item is new: 1 session. 40 marks.',
    );
  });

  test.each([
    ['doneOn', { done: 7 }, '7 items done, each on its day.'],
    ['doneOn', { done: 0 }, 'Nothing new.'],
    [
      'lastSeen',
      { seen: 1 },
      '1 date. A list like this says when each student was last seen, not how often they visit.',
    ],
    [
      'lastSeen',
      { seen: 41 },
      '41 dates. A list like this says when each student was last seen, not how often they visit.',
    ],
  ] as const)('of %s with %j say “%s”', (group, tally, words) => {
    expect(said(group, preview([column('c', group)], { tally }))).toBe(words);
  });

  test('of one’s own are named, and what is left out is named with why', () => {
    const seen = preview([
      column('Tutor', 'own'),
      column('Team', 'own'),
      column('', 'leftOut', { leftOut: 'noHeader' }),
      column('Final', 'leftOut', { leftOut: 'total' }),
    ]);
    expect(said('own', seen)).toBe('Tutor and Team. Rules and messages can use them.');
    expect(said('leftOut', seen)).toBe('(no name) (no column name), Final (a computed total).');
  });
});

describe('the people of a sheet', () => {
  const who = [column('Name', 'field')];

  test('are all here already only where every row says whom it is about', () => {
    expect(said('person', preview(who))).toBe('Everybody is in this course already.');
    const unknown = { refused: [{ row: 4, code: 'unknownPerson' }] };
    expect(said('person', preview(who, unknown))).toBe('');
    const other = { refused: [{ row: 4, code: 'number' }] };
    expect(said('person', preview(who, other))).toBe('Everybody is in this course already.');
  });

  test('are counted: new ones, ones that are offered, rows that name nobody, fields that differ', () => {
    expect(said('person', preview(who, { tally: { people: 1 } }))).toBe('1 person is new.');
    const more = { offered: { people: 3, items: 0 }, differs: 1, leftOut: 2, cut: 5 };
    expect(said('person', preview(who, more))).toBe(
      '3 people of this file are not in this course. 1 field differs from what is known, and stays as known. ' +
        '2 rows name nobody and are left out. A second table beside the first is not read.',
    );
  });
});
