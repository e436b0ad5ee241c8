/** A gradebook, wide or long: only points that changed are new grades. */
import type { Instant } from '../time/instant.ts';
import { numberWords, plural } from '../time/words.ts';
import { type Draft, type DraftItem } from './draft.ts';
import { RefusedRow } from './refused.ts';
import type { NewGrade, Outcome } from './facts.ts';
import { isAboutPerson } from './headers.ts';
import { BLANKS, excuse, EXCUSED, numberOf, type Refuse, type Row, type Taking } from './row.ts';

/** What stands where a person would in a row of points possible. */
const POSSIBLE = /^(points possible|out of|max(imum)?( points)?)$/i;

export function takeGrades(given: Taking, others: readonly string[], refuse: Refuse) {
  const { draft, asOf, fields } = given;
  const take = (grade: NewGrade, item: DraftItem, column: string | null): Outcome => {
    if (given.isCorrection) return draft.facts.removeGrade(grade);
    return mayExceed(draft, grade, item, column) ? draft.facts.addGrade(grade) : 'same';
  };
  if (fields.includes('item') && fields.includes('points')) return longGrades(given, take);
  const columns = others
    .filter((header) => !isAboutPerson(header))
    .map((header) => ({ header, item: itemOfHeader(draft, header) }));
  for (const { header, item } of columns) if (item === undefined) refuse(1, draft.unknownItem(header, header));
  return (row: Row, number: number): Outcome[] => {
    const who = [row.get('person'), row.get('name'), row.get('lastName'), row.get('email')].find(Boolean) ?? '';
    if (POSSIBLE.test(who)) {
      return columns.flatMap(({ header, item }) =>
        item && row.get(header) !== '' ? setPossible(item, numberOf(row.get(header), header)) : [],
      );
    }
    const person = draft.person(row.who, row.column);
    return columns.flatMap(({ header, item }): Outcome[] => {
      const cell = row.get(header);
      if (!item || BLANKS.has(cell.toLowerCase())) return [];
      try {
        if (EXCUSED.has(cell.toLowerCase())) return [excuse(item, person)];
        const points = pointsOf(cell, item, header);
        return [take({ person: person.id, item: item.id, criterion: null, points, at: asOf }, item, header)];
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse(number, error);
        return [];
      }
    });
  };
}

function longGrades(
  { draft, asOf }: Taking,
  take: (grade: NewGrade, item: DraftItem, column: string | null) => Outcome,
) {
  return (row: Row): Outcome[] => {
    const person = draft.person(row.who, row.column);
    const item = draft.item(row.get('item'));
    if (item === undefined) throw draft.unknownItem(row.get('item'), row.column('item'));
    const cell = row.get('points');
    if (item === null || BLANKS.has(cell.toLowerCase())) return [];
    if (EXCUSED.has(cell.toLowerCase())) return [excuse(item, person)];
    const at: Instant = row.instant('at', draft) ?? asOf;
    const id = row.get('eventId');
    const grade = {
      person: person.id,
      item: item.id,
      criterion: row.get('criterion') || null,
      points: pointsOf(cell, item, row.column('points')),
      at,
      ...(id === '' ? {} : { id }),
    };
    return [take(grade, item, row.column('points'))];
  };
}

/** Points above those possible are extra credit, or a slip of the pen: taken, left out, or asked about, once an item. */
function mayExceed(draft: Draft, grade: NewGrade, item: DraftItem, column: string | null): boolean {
  const possible = item.points;
  if (possible == null || grade.criterion !== null || grade.points <= possible) return true;
  // What is in force already was taken once.
  if (draft.facts.gradeInForce(grade)?.points === grade.points) return true;
  const choice = draft.choices.over?.[item.id];
  if (choice !== undefined) return choice === 'take';
  const message = `${numberWords(grade.points)} is more than the ${plural(possible, 'point')} possible of “${item.title}”`;
  throw new RefusedRow(column, 'over', message, { about: 'over', said: item.title, item: item.id, possible });
}

const WITH_POINTS = /^(.*?)\s*[([/]\s*(?:max\.?\s*)?(\d+(?:\.\d+)?)\s*(?:points?|pts?\.?)?\s*[)\]]?$/i;

/** "Quiz 1 (20)", "Quiz 1 [20 pts]" and "Quiz 1" are the item Quiz 1; the points possible in a header are taken with it. */
function itemOfHeader(draft: Draft, header: string): DraftItem | null | undefined {
  const plain = draft.item(header);
  const [, title, points] = WITH_POINTS.exec(header) ?? [];
  const item = plain === undefined && title ? draft.item(title) : plain;
  if (!item || points === undefined) return item;
  // An item that is made from its column is called as the column is, without the points.
  if (item.title === header) item.title = title!;
  item.points ??= Number(points);
  return item;
}

function setPossible(item: DraftItem, points: number): Outcome[] {
  if (item.points === points) return ['same'];
  const before = item.points;
  item.points = points;
  return [before == null ? 'new' : 'changed'];
}

/** Points, or a percent of the item's points. */
function pointsOf(cell: string, item: DraftItem, column: string | null): number {
  const [, percent] = /^(-?[\d.,]+)\s*%$/.exec(cell) ?? [];
  if (percent === undefined) {
    const points = numberOf(cell, column);
    if (points < 0) throw new RefusedRow(column, 'negative', `“${cell}” is less than zero`);
    return points;
  }
  if (item.points == null)
    throw new RefusedRow(column, 'noPoints', `“${cell}” is a percent, and “${item.title}” has no points possible`);
  const points = (numberOf(percent, column) * item.points) / 100;
  if (points < 0) throw new RefusedRow(column, 'negative', `“${cell}” is less than zero`);
  return points;
}
