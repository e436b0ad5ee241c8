/** What people did: one row an event. A fact that is there already is the same, however often it is told. */
import { EVENT_KINDS, EVENT_WORDS, isFromList, NEEDS_ITEM, type EventKind } from '../../activity/event.ts';
import type { Outcome } from './facts.ts';
import type { FieldRow, RowImporter } from './row.ts';

const ACT_WORDS: Readonly<Record<string, EventKind>> = {
  login: 'signIn',
  'log in': 'signIn',
  'sign in': 'signIn',
  'signed in': 'signIn',
  view: 'open',
  viewed: 'open',
  opened: 'open',
  read: 'open',
  visited: 'visit',
  access: 'visit',
  submission: 'submit',
  submitted: 'submit',
  posted: 'post',
  reply: 'post',
  practiced: 'practice',
  attempted: 'practice',
  completed: 'complete',
  attended: 'attend',
  present: 'attend',
};

/** By words of the format and of everyday speech, in small letters. */
const KINDS: ReadonlyMap<string, EventKind> = new Map([
  ...Object.entries(ACT_WORDS),
  ...EVENT_KINDS.map((kind) => [kind.toLowerCase(), kind] as const),
]);

const eventKindOf = (word: string): EventKind | undefined => KINDS.get(word.toLowerCase());

export const importActivity: RowImporter =
  ({ draft, asOf, isCorrection, person: personOf, item: itemOf }) =>
  (row: FieldRow): Outcome[] => {
    const person = personOf(row);
    row.note('person', () => `${person.firstName} ${person.lastName}`.trim());
    const word = row.get('kind');
    const kind = eventKindOf(word);
    if (!kind) return row.refuse('kind', 'kind', `“${word}” is no kind of activity. Use ${EVENT_KINDS.join(', ')}`);
    const item = row.get('item') === '' ? undefined : itemOf(row);
    if (item === null) return [];
    if (!item && NEEDS_ITEM.has(kind)) row.refuse('item', 'noItem', `“${kind}” needs an item`);
    if (item && isFromList(kind)) row.refuse('item', 'item', `“${kind}” has no item`);
    row.note('kind', () => EVENT_WORDS[kind]);
    if (item) row.note('item', () => item.title);
    const at = row.instant('at', draft, asOf);
    if (at === null) return row.refuse('at', 'date', 'This row has no date');
    const id = row.get('eventId');
    const event = { person: person.id, kind, item: item?.id ?? null, at, ...(id === '' ? {} : { id }) };
    return [isCorrection ? draft.facts.removeEvent(event) : draft.facts.addEvent(event)];
  };
