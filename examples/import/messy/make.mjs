// Makes the workbooks of this folder, so that what is messy about each can be read. The texts beside them are written by hand.
// `node examples/import/messy/make.mjs`, from a checkout with its packages installed. All people are made up.
import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';

const require = createRequire(new URL('../../../packages/server/package.json', import.meta.url));
const { Workbook } = require('exceljs');

const day = (text) => new Date(`${text}T00:00:00Z`);
const PEOPLE = [
  ['Abel', 'Thorne', 'abel@river.example'],
  ['Una', 'Moss', 'una@river.example'],
  ['Ned', 'Fry', 'ned@river.example'],
];
const NAMES = PEOPLE.map(([first, last]) => `${first} ${last}`);
const MAILS = PEOPLE.map(([, , mail]) => mail);

/** `sheets`: rows of each sheet by its name. `then`: what is done to the workbook besides. */
async function make(name, sheets, then = () => undefined) {
  const book = new Workbook();
  // The same bytes whenever it is made.
  book.created = book.modified = day('2026-11-30');
  for (const [title, rows] of Object.entries(sheets)) book.addWorksheet(title).addRows(rows);
  then(book);
  await book.xlsx.writeFile(fileURLToPath(new URL(`${name}.xlsx`, import.meta.url)));
}
const first = (book) => book.worksheets[0];

await make('titles-above', {
  Grades: [
    ['HYD 210 Rivers and Weirs'],
    ['Fall 2026, exported by D. Marsh', null, 'do not share'],
    [],
    ['Student name', 'Email', 'Quiz 1 (10)'],
    [NAMES[0], MAILS[0], 7],
    [NAMES[1], MAILS[1], 9],
  ],
});

await make(
  'groups-merged',
  {
    Grades: [
      ['Student', null, 'Essays', null, 'Quizzes', null],
      ['Name', 'Email', 'Essay 1 (20)', 'Essay 2 (20)', 'Quiz 1 (10)', 'Quiz 2 (10)'],
      [NAMES[0], MAILS[0], 18, 19, 7, 8],
      [NAMES[1], MAILS[1], 15, null, 9, 10],
    ],
  },
  (book) => ['A1:B1', 'C1:D1', 'E1:F1'].forEach((cells) => first(book).mergeCells(cells)),
);

await make(
  'two-header-rows',
  {
    Grades: [
      ['Name', 'Email', 'Labs', null, 'Notes'],
      [null, null, 'Lab 1', 'Lab 2', null],
      [NAMES[0], MAILS[0], '18/20', '19/20', 'asked for help'],
      [NAMES[1], MAILS[1], '15/20', '12/20', null],
    ],
  },
  (book) => ['A1:A2', 'B1:B2', 'C1:D1', 'E1:E2'].forEach((cells) => first(book).mergeCells(cells)),
);

await make('totals-in-the-middle', {
  Grades: [
    ['Name', 'ID', 'Quiz 1', 'Quiz 2', 'Running total', 'Essay 1', 'Final grade'],
    ['Points possible', null, 10, 10, 20, 50, 100],
    [NAMES[0], 'r1', 7, 8, 15, 40, 81],
    ['Class average', null, 8, 8.5, 16.5, 41, 82],
    [NAMES[1], 'r2', 9, 9, 18, 42, 84],
    [NAMES[2], 'r3', null, 5, 5, 38, 60],
  ],
});

await make(
  'hidden-columns',
  {
    Old: [['Name'], ['Nobody At All']],
    Grades: [
      ['Name', 'Email', 'Sec.', 'Quiz 1 (10)'],
      [NAMES[0], MAILS[0], 'A', 7],
      [NAMES[1], MAILS[1], 'B', 9],
    ],
  },
  (book) => {
    book.getWorksheet('Old').state = 'hidden';
    book.getWorksheet('Grades').getColumn(3).hidden = true;
  },
);

await make('second-table', {
  Grades: [
    ['Name', 'Email', 'Quiz 1 (10)'],
    [NAMES[0], MAILS[0], 7],
    [NAMES[1], MAILS[1], 9],
    [],
    ['Letter', 'From', 'To'],
    ['A', 93, 100],
    ['B', 85, 92],
  ],
});

await make('notes-at-the-bottom', {
  Grades: [
    ['Name', 'Email', 'Quiz 1 (10)'],
    [NAMES[0], MAILS[0], 7],
    [NAMES[1], MAILS[1], 9],
    ['Scores count once both quizzes are graded.'],
    [],
    ['Late work loses a point a day'],
    ['Questions to', 'D. Marsh'],
  ],
});

await make('formulas', {
  Grades: [
    ['Name', 'Email', 'Quiz 1 (10)', 'Quiz 2 (10)', 'Average'],
    [NAMES[0], MAILS[0], { formula: '3+4', result: 7 }, 8, { formula: 'AVERAGE(C2:D2)', result: 7.5 }],
    [NAMES[1], MAILS[1], 9, null, { formula: 'D3/0', result: { error: '#DIV/0!' } }],
  ],
});

await make('numbers-as-text', {
  Grades: [
    ['Student ID', 'Name', 'Quiz 1', 'Essay 1'],
    ['0071', NAMES[0], ' 7 ', '18 pts'],
    ['0072', NAMES[1], '9.5', '15 points'],
    ['Out of', null, '10', '20'],
  ],
});

await make(
  'percent-formats',
  {
    Grades: [
      ['Name', 'Email', 'Quiz 1', 'Essay 1 (20)'],
      [NAMES[0], MAILS[0], 0.85, 0.9],
      [NAMES[1], MAILS[1], 1, '75 %'],
    ],
  },
  (book) => {
    first(book).getColumn(3).numFmt = '0%';
    first(book).getColumn(4).numFmt = '0.0%';
  },
);

await make('sheet-per-section', {
  'Section A': [
    ['Name', 'Email', 'Section', 'Quiz 1 (10)'],
    [NAMES[0], MAILS[0], 'A', 7],
  ],
  'Section B': [
    ['Name', 'Email', 'Section', 'Quiz 1 (10)'],
    [NAMES[1], MAILS[1], 'B', 9],
  ],
});

await make(
  'attendance-dates',
  {
    Presence: [
      ['Student', null, 'September', null, null],
      ['Name', 'Email', '9/14', '9/21', day('2026-09-28')],
      [NAMES[0], MAILS[0], 'P', 'A', 'P'],
      [NAMES[1], MAILS[1], 'P', 'P', 'E'],
    ],
  },
  (book) => (first(book).getCell('E2').numFmt = 'm/d/yyyy'),
);

await make('letters-and-excused', {
  Grades: [
    ['Name', 'Email', 'Essay 1', 'Quiz 1 (10)'],
    [NAMES[0], MAILS[0], 'A−', 'EX'],
    [NAMES[1], MAILS[1], 'B+', 'missing'],
    [NAMES[2], MAILS[2], 'W', 4],
  ],
});

await make(
  'everything-at-once',
  {
    Cover: [['HYD 210 Rivers and Weirs'], ['D. Marsh']],
    Grades: [
      ['HYD 210 Rivers and Weirs'],
      ['Fall 2026', null, null, null, null, null, null, null, null, 'printed', day('2026-10-26')],
      [],
      ['Student', null, null, null, 'Essays', null, 'Quizzes', null, null, 'Presence', 'Grade'],
      [
        'First',
        'Last',
        'Email',
        'Sec.',
        'Essay 1 (20)',
        'Essay 2 (20)',
        'Quiz 1',
        'Map quiz',
        'Quizzes total',
        '9/14',
        'Total',
      ],
      ['Points possible', null, null, null, 20, 20, 10, null, null, null, 100],
      ['Abel', 'Thorne', MAILS[0], 'A', 18, '19 pts', '7 of 10', 7, 14, 'P', { formula: '1+80', result: 81 }],
      ['Una', 'Moss', MAILS[1], 'A', 15, 'EX', '9/10', 9, 18, 'A', 84],
      ['Average', null, null, null, 16.5, 19, 8, 8, 16, null, 82.5],
      ['Ned', 'Fry', MAILS[2], 'B', 12, 17, null, 4, 4, 'P', { formula: '1/0', result: { error: '#DIV/0!' } }],
      [],
      ['Late work loses a point a day'],
      ['Letter', 'From'],
      ['A', 93],
    ],
  },
  (book) => {
    const sheet = book.getWorksheet('Grades');
    ['A4:D4', 'E4:F4', 'G4:I4'].forEach((cells) => sheet.mergeCells(cells));
    sheet.getColumn(4).hidden = true;
  },
);
