/** Attendance, by session or by date. */
import { formatInstant, type Instant } from '../time/instant.ts';
import { RefusedRow, type DraftEvent, type DraftItem, type DraftPerson } from './draft.ts';
import { dayOrderOf, readDate } from './dates.ts';
import { BLANKS, excuse, type Outcome, type Refuse, type Row, type Taking } from './row.ts';
import { addEvent } from './takeActivity.ts';

/** Marks of attendance; a late student attended. */
const MARKS: Readonly<Record<string, 'attend' | 'absent' | 'excused'>> = {
  p: 'attend',
  present: 'attend',
  x: 'attend',
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
  excused: 'excused',
};

export function takeAttendance(given: Taking, others: readonly string[], refuse: Refuse) {
  const { draft, asOf, fields } = given;
  const keyOf = (e: DraftEvent) => `${e.person}\n${e.item ?? ''}\n${e.kind}`;
  const known = new Set(draft.json.events!.filter((e) => e.kind === 'attend' || e.kind === 'absent').map(keyOf));
  const mark = (person: DraftPerson, item: DraftItem, text: string, column: string | null, at: Instant): Outcome[] => {
    if (BLANKS.has(text.toLowerCase())) return [];
    const meaning = MARKS[text.toLowerCase()];
    if (!meaning) throw new RefusedRow(column, 'mark', `“${text}” is no mark of attendance. Use P, A, L or E`);
    if (meaning === 'excused') return [excuse(item, person)];
    return addEvent(
      draft,
      { person: person.id, kind: meaning, item: item.id, at: formatInstant(at, draft.json.course.timeZone) },
      known,
      keyOf,
    );
  };
  const instantOf = (item: DraftItem): Instant => {
    const at = item.opensAt ?? item.dueAt;
    return at ? Date.parse(at) : asOf;
  };
  if (fields.includes('status')) {
    return (row: Row): Outcome[] => {
      const person = draft.person(row.who, row.column);
      const at = row.instant('at', draft);
      const item = row.get('item') !== '' ? draft.item(row.get('item')) : at === null ? undefined : draft.sessionOn(at);
      if (!item)
        row.refuse(row.column('item') ? 'item' : 'at', 'unknownItem', 'There is no session for this row in the course');
      return mark(person, item, row.get('status'), row.column('status'), at ?? instantOf(item));
    };
  }
  const order = dayOrderOf(others);
  const columns = others.map((header) => {
    const date = readDate(header, draft.zone, order);
    return { header, item: draft.item(header) ?? (date.ok ? draft.sessionOn(date.at) : undefined) };
  });
  for (const { header, item } of columns) {
    if (!item) refuse(1, new RefusedRow(header, 'unknownItem', `There is no session “${header}” in this course`));
  }
  return (row: Row, number: number): Outcome[] => {
    const person = draft.person(row.who, row.column);
    return columns.flatMap(({ header, item }): Outcome[] => {
      if (!item) return [];
      try {
        return mark(person, item, row.get(header), header, instantOf(item));
      } catch (error) {
        if (!(error instanceof RefusedRow)) throw error;
        refuse(number, error);
        return [];
      }
    });
  };
}
