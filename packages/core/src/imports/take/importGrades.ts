/** A gradebook of one row a grade: only points that changed are new grades. */
import { numberWords, plural } from '../../time/words.ts';
import type { ImportDraft, DraftItem } from './draft.ts';
import { RefusedRow } from '../read/refused.ts';
import type { GradeFromFile, Outcome } from './facts.ts';
import { excuse, type FieldRow, type RowImporter } from './row.ts';
import { gradeCell, gradeWords } from './sheetCells.ts';

export const importGrades: RowImporter = ({
  draft,
  survey,
  table,
  fields,
  asOf,
  isCorrection,
  person: personOf,
  item: itemOf,
}) => {
  const place = fields.indexOf('points');
  const header = table.headers[place]!;
  const context = {
    header,
    draft,
    asOf,
    column: survey!.columns[place]!,
    order: 'unknown' as const,
    letters: draft.json.course.letters ?? null,
  };
  return (row: FieldRow): Outcome[] => {
    const person = personOf(row);
    row.note('person', () => `${person.firstName} ${person.lastName}`.trim());
    const item = itemOf(row);
    if (item === null) return [];
    row.note('item', () => item.title);
    const said = gradeCell(row.get('points'), row.isNumber('points'), item, context);
    row.note('points', () => gradeWords(said, item));
    if (said.says === 'nothing') return [];
    if (said.says === 'excused') return [excuse(item, person)];
    const at = row.instant('at', draft, asOf) ?? asOf;
    const id = row.get('eventId');
    const grade = {
      person: person.id,
      item: item.id,
      criterion: row.get('criterion') || null,
      points: said.points,
      at,
      ...(id === '' ? {} : { id }),
    };
    if (isCorrection) return [draft.facts.removeGrade(grade)];
    return [mayExceed(draft, grade, item, header) ? draft.facts.addGrade(grade) : 'same'];
  };
};

/** Points above those possible are extra credit, or a slip of the pen: taken, left out, or asked about, once an item. */
export function mayExceed(draft: ImportDraft, grade: GradeFromFile, item: DraftItem, column: string | null): boolean {
  const possible = item.points;
  if (possible == null || grade.criterion !== null || grade.points <= possible) return true;
  // What is in force already was taken once.
  if (draft.facts.gradeInForce(grade)?.points === grade.points) return true;
  const choice = draft.choices.over?.[item.id];
  if (choice !== undefined) return choice === 'take';
  const message = `${numberWords(grade.points)} is more than the ${plural(possible, 'point')} possible of “${item.title}”`;
  throw new RefusedRow(column, 'over', message, { about: 'over', said: item.title, item: item.id, possible });
}
