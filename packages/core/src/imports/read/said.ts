/** Cells that are words: those that say nothing, excuse, are errors of a spreadsheet, or are marks of attendance ([F7], [F10]). */

/** Longer texts are none of these. */
const LONGEST = 64;

/** As cells are compared: small letters, brackets and blanks around taken off, blanks within single. */
export function plainCell(cell: string): string {
  if (cell.length > LONGEST) return cell;
  let from = 0;
  let to = cell.length;
  const isAround = (c: string) => /[\s()[\]{}]/.test(c);
  while (from < to && isAround(cell[from]!)) from++;
  while (to > from && isAround(cell[to - 1]!)) to--;
  return cell.slice(from, to).split(/\s+/).join(' ').toLowerCase();
}

const NOTHING = new Set([
  ...['', 'n/a', 'na', 'none', 'null', 'not graded', 'ungraded', 'pending', 'to grade', 'needs grading', 'in progress'],
  ...[
    'not started',
    'not submitted',
    'no submission',
    'missing',
    'late',
    'incomplete',
    'absent',
    'submitted',
    'turned in',
  ],
]);
const DASHES = /^[-‐‑‒–—―−]+$/;

/** Nothing is said: no grade, and nothing to refuse. */
export const saysNothingYet = (cell: string): boolean => {
  const plain = plainCell(cell);
  return NOTHING.has(plain) || DASHES.test(plain);
};

/** A blank or a dash. */
export const isBlank = (cell: string): boolean => cell === '' || (cell.length < 4 && DASHES.test(cell));

const EXCUSED = new Set(['ex', 'exc', 'excused', 'exempt']);
export const saysExcused = (cell: string): boolean => EXCUSED.has(plainCell(cell));

/** Errors of a spreadsheet. */
export const isError = (cell: string): boolean =>
  cell.charCodeAt(0) === 35 &&
  cell.length < 20 &&
  /^#(?:DIV\/0!|N\/A|REF!|VALUE!|NAME\?|NUM!|NULL!|SPILL!|CALC!|GETTING_DATA)$/i.test(cell);

/** Marks of attendance; a late student attended. */
const MARKS: Readonly<Record<string, 'attend' | 'absent' | 'excused'>> = {
  p: 'attend',
  present: 'attend',
  x: 'attend',
  '✓': 'attend',
  '✔': 'attend',
  '1': 'attend',
  yes: 'attend',
  l: 'attend',
  late: 'attend',
  tardy: 'attend',
  attended: 'attend',
  a: 'absent',
  absent: 'absent',
  '0': 'absent',
  no: 'absent',
  e: 'excused',
  ex: 'excused',
  exc: 'excused',
  excused: 'excused',
  exempt: 'excused',
};

export function markOf(cell: string): 'attend' | 'absent' | 'excused' | null {
  const plain = plainCell(cell);
  return Object.hasOwn(MARKS, plain) ? MARKS[plain]! : null;
}

const DONE_MARKS = new Set(['yes', 'y', 'x', '✓', '✔', 'done', 'completed', 'complete', 'true']);
/** Something was done, and nobody says when. */
export const saysDone = (cell: string): boolean => DONE_MARKS.has(plainCell(cell));

const NOT_DONE = new Set(['no', 'n', 'not yet', 'not done', 'not completed', 'false', 'never']);
export const saysNotDone = (cell: string): boolean => NOT_DONE.has(plainCell(cell)) || saysNothingYet(cell);
