/** A gradebook, wide or long: only points that changed are new grades. */
import { formatInstant, type Instant } from '../time/instant.ts';
import { RefusedRow, type Draft, type DraftGrade, type DraftItem } from './draft.ts';
import { BLANKS, excuse, EXCUSED, numberOf, type Outcome, type Refuse, type Row, type Taking } from './row.ts';

/** Grades by person, item and criterion: the latest points as of an instant, so that what did not change is told. */
class GradeBook {
  private readonly latest = new Map<string, DraftGrade>();
  private readonly draft: Draft;

  constructor(draft: Draft) {
    this.draft = draft;
    for (const grade of draft.json.grades!) this.remember(grade);
  }

  private remember(grade: DraftGrade): void {
    const key = `${grade.person}\n${grade.item}\n${grade.criterion ?? ''}`;
    const known = this.latest.get(key);
    if (!known || Date.parse(known.at) <= Date.parse(grade.at)) this.latest.set(key, grade);
  }

  take(person: string, item: string, criterion: string | null, points: number, at: Instant): Outcome {
    const known = this.latest.get(`${person}\n${item}\n${criterion ?? ''}`);
    if (known?.points === points) return 'same';
    const grade = {
      person,
      item,
      ...(criterion ? { criterion } : {}),
      points,
      at: formatInstant(at, this.draft.json.course.timeZone),
    };
    this.draft.json.grades!.push(grade);
    this.remember(grade);
    return known ? 'changed' : 'new';
  }
}

export function takeGrades(given: Taking, others: readonly string[], refuse: Refuse) {
  const { draft, asOf, fields } = given;
  const book = new GradeBook(draft);
  if (fields.includes('item') && fields.includes('points')) return longGrades(given, book);
  const columns = others.map((header) => ({ header, item: itemOfHeader(draft, header) }));
  for (const { header, item } of columns) {
    if (item) continue;
    refuse(1, new RefusedRow(header, 'unknownItem', `There is no item “${header}” in this course`));
  }
  return (row: Row, number: number): Outcome[] => {
    // A row of points possible stands where a person would.
    if (
      /^(points possible|out of|max(imum)?( points)?)$/i.test(
        [row.get('person'), row.get('name'), row.get('lastName'), row.get('email')].find(Boolean) ?? '',
      )
    ) {
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
        return [book.take(person.id, item.id, null, pointsOf(cell, item, header), asOf)];
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse(number, error);
        return [];
      }
    });
  };
}

function longGrades({ draft, asOf }: Taking, book: GradeBook) {
  return (row: Row): Outcome[] => {
    const person = draft.person(row.who, row.column);
    const item = draft.item(row.get('item'));
    if (!item) row.refuse('item', 'unknownItem', `There is no item “${row.get('item')}” in this course`);
    const cell = row.get('points');
    if (BLANKS.has(cell.toLowerCase())) return [];
    if (EXCUSED.has(cell.toLowerCase())) return [excuse(item, person)];
    const at = row.instant('at', draft) ?? asOf;
    const criterion = row.get('criterion') || null;
    return [book.take(person.id, item.id, criterion, pointsOf(cell, item, row.column('points')), at)];
  };
}

/** "Quiz 1 (20)", "Quiz 1 [20 pts]" and "Quiz 1" are the item Quiz 1; the points possible in a header are taken with it. */
function itemOfHeader(draft: Draft, header: string): DraftItem | undefined {
  const plain = draft.item(header);
  if (plain) return plain;
  const [, title, points] =
    /^(.*?)\s*[([/]\s*(?:max\.?\s*)?(\d+(?:\.\d+)?)\s*(?:points?|pts?\.?)?\s*[)\]]?$/i.exec(header) ?? [];
  const item = title ? draft.item(title) : undefined;
  if (item && points !== undefined && item.points == null) item.points = Number(points);
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
  return (numberOf(percent, column) * item.points) / 100;
}
