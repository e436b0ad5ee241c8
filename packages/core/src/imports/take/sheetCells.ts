/** What one cell of a sheet of people says ([F9] to [F14]), in a form that is taken or shown; one code for both. */
import { DAY, MINUTE, type Instant } from '../../time/instant.ts';
import { instantWords, numberWords, plural } from '../../time/words.ts';
import { readAge } from '../read/ages.ts';
import { readDate, type DayOrder } from '../read/dates.ts';
import type { ImportDraft, DraftItem } from './draft.ts';
import { letterPercent } from '../read/letters.ts';
import { numberOf, plainScore, type NumberStyle } from '../read/numbers.ts';
import { RefusedRow } from '../read/refused.ts';
import { isBlank, isError, markOf, saysDone, saysExcused, saysNotDone, saysNothingYet } from '../read/said.ts';
import { saysNever, type ColumnSurvey } from './survey.ts';
import { DATE_SENTENCES } from './row.ts';

export interface CellContext {
  readonly header: string;
  readonly column: ColumnSurvey;
  readonly draft: ImportDraft;
  /** The file's own instant. */
  readonly asOf: Instant;
  readonly order: DayOrder;
  readonly letters: Readonly<Record<string, number>> | null;
}

export type GradeCell =
  { readonly says: 'nothing' } | { readonly says: 'excused' } | { readonly says: 'points'; readonly points: number };

const NOTHING = { says: 'nothing' } as const;

/** An error of a spreadsheet says nothing that could be taken. */
export function mustBeNoError(cell: string, header: string): void {
  if (isError(cell))
    throw new RefusedRow(header, 'error', `“${cell}” is an error of the spreadsheet. Mend it there, or type a value`);
}

/** A grade: points, a percent, a fraction, a letter, or a word. Throws `RefusedRow`. */
export function gradeCell(
  cell: string,
  isNumber: boolean,
  item: Pick<DraftItem, 'title' | 'points'>,
  ctx: CellContext,
): GradeCell {
  mustBeNoError(cell, ctx.header);
  if (cell === '' || saysNothingYet(cell)) return NOTHING;
  if (saysExcused(cell)) return { says: 'excused' };
  const style = isNumber ? 'workbook' : ctx.column.decimal;
  const points = pointsOf(plainScore(cell), item, ctx, style);
  if (points === null) return NOTHING;
  if (points < 0) throw new RefusedRow(ctx.header, 'negative', `“${cell}” is less than zero`);
  return { says: 'points', points };
}

function pointsOf(
  cell: string,
  item: Pick<DraftItem, 'title' | 'points'>,
  ctx: CellContext,
  style: NumberStyle,
): number | null {
  const { header, column } = ctx;
  if (cell.endsWith('%')) {
    const percent = numberOf(cell.slice(0, -1).trimEnd(), header, style);
    if (item.points != null) return scaled(percent, item.points, 100);
    if (column.isPercent) return percent;
    throw new RefusedRow(header, 'noPoints', `“${cell}” is a percent, and “${item.title}” has no points possible`);
  }
  const slash = cell.indexOf('/');
  if (slash > 0) {
    const [a, b] = [cell.slice(0, slash).trim(), cell.slice(slash + 1).trim()].map((text) =>
      numberOf(text, header, style),
    );
    if (!(b! > 0)) throw new RefusedRow(header, 'denominator', `“${cell}” is of no points at all`);
    if (item.points != null) return b === item.points ? a! : scaled(a!, item.points, b!);
    if (column.denominator !== null) return a!;
    const message = `“${cell}”: “${item.title}” has no points possible, and not all scores of this column are of ${numberWords(b!)}`;
    throw new RefusedRow(header, 'denominator', message);
  }
  if (column.isLetters) {
    const percent = letterPercent(cell, ctx.letters);
    if (percent === null) return null;
    if (percent !== undefined) return scaled(percent, item.points ?? 100, 100);
  }
  return numberOf(cell, header, style);
}

/** Rounded as measures are, multiplied before it is divided. */
const scaled = (part: number, points: number, of: number): number => Math.round(((part * points) / of) * 1e9) / 1e9;

export function gradeWords(grade: GradeCell, item: Pick<DraftItem, 'points'>): string {
  if (grade.says === 'nothing') return '';
  if (grade.says === 'excused') return 'excused';
  const points = numberWords(grade.points);
  if (item.points == null || item.points === 0) return plural(grade.points, 'point');
  const percent = Math.round((1000 * grade.points) / item.points) / 10;
  return `${points} of ${numberWords(item.points)} (${numberWords(percent)}%)`;
}

export type MarkCell = 'attend' | 'absent' | 'excused' | null;

export function markCell(cell: string, header: string): MarkCell {
  mustBeNoError(cell, header);
  if (isBlank(cell)) return null;
  const mark = markOf(cell);
  if (mark) return mark;
  if (saysNothingYet(cell)) return null;
  throw new RefusedRow(header, 'mark', `“${cell}” is not an attendance entry. Use P, A, L or E`);
}

export const MARK_WORDS: Readonly<Record<Exclude<MarkCell, null>, string>> = {
  attend: 'attended',
  absent: 'absent',
  excused: 'excused',
};

export interface SeenCell {
  readonly at: Instant;
  /** How far off an age may be either way; null for a date. */
  readonly within: number | null;
}

/** Farther from the course than this, a date is a slip; in days. */
const MOST_DAYS_OFF = 366;

/** When somebody was seen last; null where nothing is said. Throws `RefusedRow`. */
export function seenCell(cell: string, ctx: CellContext): SeenCell | null {
  mustBeNoError(cell, ctx.header);
  if (isBlank(cell) || saysNever(cell) || saysNothingYet(cell)) return null;
  const age = readAge(cell, ctx.asOf, ctx.draft.zone);
  if (age) return { at: mustBeNear(age.at, cell, ctx), within: age.unit };
  return { at: dateIn(cell, ctx), within: null };
}

/** When something was done; null where nothing is said. Throws `RefusedRow`. */
export function doneCell(cell: string, ctx: CellContext): Instant | null {
  mustBeNoError(cell, ctx.header);
  if (isBlank(cell) || saysNotDone(cell)) return null;
  if (saysDone(cell)) {
    const message = `“${cell}” says that it was done, and not when`;
    throw new RefusedRow(ctx.header, 'noDate', message);
  }
  return dateIn(cell, ctx);
}

function dateIn(cell: string, ctx: CellContext): Instant {
  const { draft, asOf, order, header } = ctx;
  const [, day, time] = /^(today|yesterday)(?:,? (?:at )?(\d.{0,20}))?$/i.exec(cell) ?? [];
  const text = day === undefined ? cell : dayText(day, time, asOf, draft);
  const read = readDate(text, { zone: draft.zone, order, frame: draft.frame(asOf) });
  if (read.ok) return mustBeNear(read.at, cell, ctx);
  const question =
    read.code === 'ambiguousDate' ? ({ about: 'dayOrder', column: header, example: cell } as const) : null;
  throw new RefusedRow(header, read.code, DATE_SENTENCES[read.code](cell), question);
}

function dayText(day: string, time: string | undefined, asOf: Instant, draft: ImportDraft): string {
  const wall = draft.zone.toWall(asOf) - (day.toLowerCase() === 'yesterday' ? DAY : 0);
  return `${new Date(wall).toISOString().slice(0, 10)} ${time ?? ''}`.trim();
}

function mustBeNear(at: Instant, cell: string, { draft, asOf, header }: CellContext): Instant {
  const { start, end } = draft.frame(asOf);
  if (at >= start - MOST_DAYS_OFF * DAY && at <= end + MOST_DAYS_OFF * DAY + MINUTE) return at;
  throw new RefusedRow(header, 'dateRange', `“${cell}” is more than a year away from this course`);
}

export const whenWords = (at: Instant, draft: ImportDraft): string => instantWords(at, draft.json.course.timeZone);
