/** Attendance, by session or by date. */
import type { Instant } from '../time/instant.ts';
import { type DraftItem, type DraftPerson } from './draft.ts';
import { RefusedRow } from './refused.ts';
import { dayOrderOf, readDate } from './dates.ts';
import type { Outcome } from './facts.ts';
import { isAboutPerson } from './headers.ts';
import { BLANKS, excuse, type Refuse, type Row, type Taking } from './row.ts';

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
  const mark = (person: DraftPerson, item: DraftItem, text: string, column: string | null, at: Instant): Outcome[] => {
    const plain = text.toLowerCase();
    if (BLANKS.has(plain)) return [];
    const kind = Object.hasOwn(MARKS, plain) ? MARKS[plain] : undefined;
    if (!kind) throw new RefusedRow(column, 'mark', `“${text}” is no mark of attendance. Use P, A, L or E`);
    if (kind === 'excused') return [excuse(item, person)];
    const event = { person: person.id, kind, item: item.id, at };
    return [given.isCorrection ? draft.facts.removeMark(event) : draft.facts.setMark(event)];
  };
  const instantOf = (item: DraftItem): Instant => {
    const at = item.opensAt ?? item.dueAt;
    return at ? Date.parse(at) : asOf;
  };
  if (fields.includes('status')) {
    return (row: Row): Outcome[] => {
      const person = draft.person(row.who, row.column);
      const at = row.instant('at', draft);
      const said = row.get('item');
      const item = said !== '' ? draft.item(said) : at === null ? undefined : draft.sessionOn(at);
      if (item === null) return [];
      if (!item && said !== '') throw draft.unknownItem(said, row.column('item'));
      if (!item) return row.refuse('at', 'unknownItem', 'The course has no session on this date');
      return mark(person, item, row.get('status'), row.column('status'), at ?? instantOf(item));
    };
  }
  const order = dayOrderOf(others);
  const columns = others
    .filter((header) => !isAboutPerson(header))
    .map((header) => {
      const date = readDate(header, draft.zone, order);
      const named = draft.item(header);
      return { header, item: named === undefined && date.ok ? draft.sessionOn(date.at) : named };
    });
  for (const { header, item } of columns) if (item === undefined) refuse(1, draft.unknownItem(header, header));
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
