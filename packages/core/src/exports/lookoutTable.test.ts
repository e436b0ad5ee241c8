import { expect, test } from '@jest/globals';
import Papa from 'papaparse';
import { courseOf, person } from '../testing/build.ts';
import { csvText } from './csvFile.ts';
import { lookoutTable } from './lookoutTable.ts';

const read = (csv: string) => Papa.parse<string[]>(csv).data;

test('the table of students is written as it is shown: its rows, its order, unknowns empty, columns of one title told apart', () => {
  const course = courseOf({ people: [person('p1'), person('p2')] });
  const column = { kind: 'log', log: 'lastNudge' } as const;
  const values = [
    [5, null],
    [true, 12.5],
  ];
  const out = lookoutTable(course, {
    students: ['p2', 'p1'],
    columns: [column, column],
    value: (c, place) => values[c]![place]!,
    rules: new Map(),
  });
  const [head, first, second] = read(csvText(out));
  expect(head!.slice(5)).toEqual(['Last nudge, days ago', 'Last nudge, days ago (2)']);
  expect(first).toEqual(['p2', ...first!.slice(1, 5), '5', 'yes']);
  expect(second!.slice(5)).toEqual(['', '12.5']);
});
