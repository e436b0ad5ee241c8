/** What people did: one row an event. A fact that is there already is the same, however often it is told. */
import { formatInstant } from '../time/instant.ts';
import { EVENT_KINDS, NEEDS_ITEM, type EventKind } from '../activity/event.ts';
import type { Draft, DraftEvent } from './draft.ts';
import type { Outcome, Row, Taking } from './row.ts';

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

export function takeActivity({ draft }: Taking): (row: Row) => Outcome[] {
  const keyOf = (e: DraftEvent) => `${e.person}\n${e.kind}\n${e.item ?? ''}\n${Date.parse(e.at)}`;
  const known = new Set(draft.json.events!.map(keyOf));
  return (row) => {
    const person = draft.person(row.who, row.column);
    const word = row.get('kind');
    const kind = EVENT_KINDS.find((k) => k.toLowerCase() === word.toLowerCase()) ?? ACT_WORDS[word.toLowerCase()];
    if (!kind) row.refuse('kind', 'kind', `“${word}” is no kind of activity. Use ${EVENT_KINDS.join(', ')}`);
    const item = row.get('item') === '' ? null : draft.item(row.get('item'));
    if (item === undefined) row.refuse('item', 'unknownItem', `There is no item “${row.get('item')}” in this course`);
    if (!item && NEEDS_ITEM.has(kind!)) row.refuse('item', 'noItem', `“${kind}” needs an item`);
    const at = row.instant('at', draft);
    if (at === null) row.refuse('at', 'date', 'This row has no date');
    return addEvent(
      draft,
      {
        person: person.id,
        kind: kind!,
        ...(item ? { item: item.id } : {}),
        at: formatInstant(at!, draft.json.course.timeZone),
      },
      known,
      keyOf,
    );
  };
}

export function addEvent(
  draft: Draft,
  event: DraftEvent,
  known: Set<string>,
  keyOf: (e: DraftEvent) => string,
): Outcome[] {
  if (known.has(keyOf(event))) return ['same'];
  known.add(keyOf(event));
  draft.json.events!.push(event);
  return ['new'];
}
