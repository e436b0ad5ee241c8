/** A cell of the gradebook: what came of an item, by a sign and in words. */
import { instantWords, numberWords } from '@zest-bell/core/time';
import type { GradebookCell, WorkState } from '@zest-bell/core/lookout';

const STATE_WORDS: Readonly<Record<WorkState, string>> = {
  excused: 'excused',
  before: 'due before they enrolled',
  open: 'not turned in yet',
  missing: 'missing',
  onTime: 'turned in on time',
  late: 'turned in late',
};

/** Whether the points are more than those possible: extra credit, or a slip of the pen. */
const isOver = ({ score }: GradebookCell): boolean => score !== null && score > 100;

/** What a cell says in full, for a pointer that rests on it and for anyone who hears it. */
export function cellWords(cell: GradebookCell, possible: number | null, timeZone: string): string {
  const said: string[] = [STATE_WORDS[cell.state]];
  if (cell.doneAt !== null) said.push(instantWords(cell.doneAt, timeZone));
  if (cell.points !== null)
    said.push(`${numberWords(cell.points)}${possible === null ? '' : ` of ${numberWords(possible)}`} points`);
  if (isOver(cell)) said.push('more than the points possible');
  if (cell.awaitsGrade) said.push('not graded yet');
  if (cell.dueAt !== null && cell.doneAt === null) said.push(`due ${instantWords(cell.dueAt, timeZone)}`);
  return said.join(', ');
}

/** What is in a cell, without its sign: a score in percent, with one decimal like all others of its column. */
export function cellText(cell: GradebookCell): string {
  if (cell.score !== null) return cell.score.toFixed(1);
  if (cell.points !== null) return numberWords(cell.points);
  if (cell.awaitsGrade) return 'to grade';
  return SHORT[cell.state];
}

const SHORT: Readonly<Record<WorkState, string>> = {
  missing: 'missing',
  late: 'late',
  onTime: 'done',
  excused: 'excused',
  before: '–',
  open: '·',
};

export function GradeCell({ cell }: { readonly cell: GradebookCell }) {
  const graded = cell.points !== null;
  const tone = graded
    ? 'tabular-nums'
    : cell.awaitsGrade
      ? 'text-iris'
      : cell.state === 'missing'
        ? 'text-tangerine-text'
        : cell.state === 'excused'
          ? 'text-ink-2 italic'
          : cell.state === 'onTime'
            ? 'text-ink-2'
            : cell.state === 'late'
              ? ''
              : 'text-ink-3';
  return (
    <>
      <span className="w-5 flex-none">
        {/* That it came in on time goes without saying once it is graded. */}
        {isOver(cell) ? (
          <Sign of="+" tone="text-brass-text" />
        ) : (
          (!graded || cell.state !== 'onTime') && SIGNS[cell.state]
        )}
      </span>
      <span className={`ml-auto ${tone}`}>{cellText(cell)}</span>
    </>
  );
}

const SIGNS: Readonly<Record<WorkState, React.ReactNode>> = {
  missing: <Sign of="▲" tone="text-tangerine-text" />,
  late: <Sign of="◷" tone="text-brass-text" />,
  onTime: <Sign of="✓" tone="text-pine" />,
  excused: null,
  before: null,
  open: null,
};

function Sign({ of, tone }: { readonly of: string; readonly tone: string }) {
  return (
    <span aria-hidden className={`${tone} text-[12px]`}>
      {of}
    </span>
  );
}

/** What the signs mean, once for the page. */
export function Legend() {
  return (
    <p className="flex flex-wrap items-center gap-x-4 gap-y-1 text-[13.5px] text-ink-2">
      <span>{SIGNS.onTime} turned in</span>
      <span>{SIGNS.late} late</span>
      <span>{SIGNS.missing} missing</span>
      <span>
        <span className="text-iris">to grade</span>: turned in, no grade yet
      </span>
      <span>
        <Sign of="+" tone="text-brass-text" /> more than the points possible
      </span>
      <span>· not turned in yet</span>
      <span>– due before they enrolled</span>
    </p>
  );
}
