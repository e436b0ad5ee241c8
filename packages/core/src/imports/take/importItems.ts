/** The items of a course. */
import { ITEM_KINDS } from '../../course/item.ts';
import { slugOf, type DraftItem } from './draft.ts';
import type { Outcome } from './facts.ts';
import type { FieldRow, RowImporter, RowImport } from './row.ts';

export const importItems: RowImporter = (given) => (row) => [takeItem(given, row)];

const KIND_WORDS: Readonly<Record<string, string>> = {
  homework: 'assignment',
  lab: 'assignment',
  essay: 'assignment',
  test: 'quiz',
  exam: 'quiz',
  discussion: 'forum',
  file: 'page',
  reading: 'page',
  drill: 'practice',
  exercise: 'practice',
  class: 'session',
  lecture: 'session',
  meeting: 'session',
};

function takeItem({ draft, asOf }: RowImport, row: FieldRow): Outcome {
  const title = row.get('title');
  const id = row.get('id');
  const known = draft.item(id) ?? (id === '' ? (draft.item(title) ?? undefined) : undefined);
  if (!known && title === '') row.refuse('title', 'noTitle', 'This row has no title');
  const word = row.get('kind').toLowerCase();
  const kind = ITEM_KINDS.find((k) => k === word) ?? (Object.hasOwn(KIND_WORDS, word) ? KIND_WORDS[word] : undefined);
  if (word !== '' && !kind)
    row.refuse('kind', 'kind', `“${row.get('kind')}” is no kind of item. Use ${ITEM_KINDS.join(', ')}`);
  const points = row.number('points');
  const [opensAt, dueAt] = [row.instant('opensAt', draft, asOf), row.instant('dueAt', draft, asOf, true)];
  const url = row.get('url');
  const topics = row
    .get('topics')
    .split(/[;,]/)
    .map((t) => t.trim())
    .filter(Boolean);
  const write = (item: DraftItem) => {
    if (title !== '') item.title = title;
    if (kind) item.kind = kind;
    if (row.get('group') !== '') item.group = row.get('group');
    if (points !== null) item.points = points;
    if (opensAt !== null) item.opensAt = draft.write(opensAt);
    if (dueAt !== null) item.dueAt = draft.write(dueAt);
    if (url !== '') item.url = url;
    if (topics.length > 0) item.topics = topics;
  };
  const column = (field: string) => row.column(field);
  if (known) return draft.changeItem(known, write, column) ? 'changed' : 'same';
  const item: DraftItem = { id: id || slugOf(title), title, kind: 'assignment' };
  if (draft.item(item.id)) row.refuse('title', 'sameId', `An item “${item.id}” is there already. Give this one an id`);
  write(item);
  draft.addItem(item, column);
  return 'new';
}
