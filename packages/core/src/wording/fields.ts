/** The merge fields: personal values that a wording may name, and what they are for one student. */
import type { Course } from '../course/course.ts';
import { fullName } from '../course/person.ts';
import { leavesOf, type Condition } from '../conditions/condition.ts';
import { valueWords } from '../conditions/sentence.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { mayBeLeftOut, MEASURE_NAMES, type MeasureCall, type MeasureName } from '../measures/values/measure.ts';
import { valueAt } from '../measures/values/timeline.ts';
import type { Instant } from '../time/instant.ts';
import { dueSoonList, dueSoonOf, missingList, scoreList, topicList } from './lists.ts';
import type { FieldSubject, FieldContext } from './fieldContext.ts';
import { linkMark, withoutMarks } from './markup.ts';
import { STUDENTS_LIST, studentsList } from './together.ts';
import { listWords, longDayWords, timeWords } from '../time/words.ts';

export const ABOUT_NOTHING: FieldSubject = { item: null, calls: [] };

export function aboutOf(condition: Condition): FieldSubject {
  const leaves = leavesOf(condition);
  return { item: leaves.map((l) => l.item ?? l.items?.[0]).find((id) => id !== undefined) ?? null, calls: leaves };
}

export interface MergeField {
  /** As written in a wording: `student.first_name`. */
  readonly name: string;
  readonly title: string;
  /** Lists and links have lines and marks of their own. */
  readonly kind: 'value' | 'list' | 'link';
  /** Null where there is nothing to say of this student. */
  value(context: FieldContext): string | null;
}

const student = (context: FieldContext) => context.facts.course.people[context.person]!;
const course = (context: FieldContext): Course => context.facts.course;
const item = (context: FieldContext) =>
  course(context).items[course(context).itemIndex.get(context.about.item ?? '') ?? -1];
const orNull = (text: string | undefined): string | null => (text === undefined || text.trim() === '' ? null : text);

/** The measure as the rule asks for it, or of its item, or of the whole course; null where it would need to be told more. */
function callFor(measure: MeasureName, about: FieldSubject): MeasureCall | null {
  const asked = about.calls.find((c) => c.measure === measure);
  if (asked) return asked;
  const known = CATALOGUE[measure];
  const needed = Object.keys(known.parameters).filter((name) => !mayBeLeftOut(known, name));
  if (needed.length === 0) return { measure };
  return needed.join() === 'item' && about.item !== null ? { measure, item: about.item } : null;
}

function measured(context: FieldContext, measure: MeasureName): string | null {
  const call = callFor(measure, context.about);
  if (!call || (call.item !== undefined && !course(context).itemIndex.has(call.item))) return null;
  const value = valueAt(context.facts.timeline(context.person, call), context.at);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value !== 'number') return value;
  const known = CATALOGUE[measure];
  return known.valueWords?.(value, call) ?? valueWords(value, known.unit);
}

const day = (context: FieldContext, at: Instant | null): string | null =>
  at === null ? null : longDayWords(at, course(context).timeZone);

function lastVisit(context: FieldContext): string | null {
  const fact = context.facts.fact(context.person, { measure: 'daysSinceVisit' }, context.at);
  return fact.kind === 'last' ? day(context, fact.at) : null;
}

/** What the rule found missing, or all that is; a live session that has passed can no longer be handed in. */
function missingTitles(context: FieldContext): string | null {
  const fact = context.facts.fact(context.person, callFor('missing', context.about)!, context.at);
  if (fact.kind !== 'items') return null;
  const sessions = new Set(course(context).items.flatMap((i) => (i.kind === 'session' ? [i.title] : [])));
  return orNull(listWords(fact.items.map((i) => i.title).filter((title) => !sessions.has(title))));
}

/** As the rule asks for it, or within a week where it does not. */
const dueSoonCall = ({ about }: FieldContext): MeasureCall =>
  callFor('dueSoon', about) ?? { measure: 'dueSoon', days: 7 };

const dueSoonTitles = (context: FieldContext): string | null =>
  orNull(listWords(dueSoonOf(context, dueSoonCall(context)).map(({ item }) => item.title)));
const dueSoonLines = (context: FieldContext): string | null => dueSoonList(context, dueSoonCall(context));

/** When an item is due for this student, their extension counted; for several at once, when it is due at all. */
function itemDue(context: FieldContext, id: string | null): string | null {
  const of = id === null ? undefined : course(context).items[course(context).itemIndex.get(id) ?? -1];
  if (!of) return null;
  const fact = context.facts.fact(context.person, { measure: 'hoursUntilDue', item: of.id }, context.at);
  const at = context.together !== undefined ? of.dueAt : fact.kind === 'due' ? fact.at : null;
  return at === null ? null : `${day(context, at)}, ${timeWords(at, course(context).timeZone)}`;
}

const ofKind =
  (kind: MergeField['kind']) =>
  (name: string, title: string, value: MergeField['value']): MergeField => ({ name, title, kind, value });
const field = ofKind('value');
const list = ofKind('list');
const link = ofKind('link');

/** Items and columns of the course are fields too, one each: `link["lab-3"]`. What is in the brackets, or null for other fields. */
function namedIn(scope: 'link' | 'due' | 'column'): (field: string) => string | null {
  const written = new RegExp(`^${scope}(?:\\.([\\w-]+)|\\['((?:[^'\\\\]|\\\\.)+)'\\]|\\["((?:[^"\\\\]|\\\\.)+)"\\])$`);
  return (field) => {
    const [, plain, single, double] = written.exec(field) ?? [];
    return plain ?? single ?? double ?? null;
  };
}

/** The item that a link field names, or null for a field of another kind. */
export const linkedItem = namedIn('link');

/** The item of a due date field, or null for a field of another kind. */
export const dueItem = namedIn('due');

/** The column that a field names, or null for a field of another kind. */
export const namedColumn = namedIn('column');

/** The item that a field names, whatever it says of it. */
export const itemOfField = (field: string): string | null => linkedItem(field) ?? dueItem(field);

const inBrackets = (name: string): string => `["${name.replace(/["\\]/g, '')}"]`;

/** A column of the course’s own, as written in a wording: `column["Boat"]`. */
export const columnField = (column: string): string => `column${inBrackets(column)}`;

/** A link to an item, as written in a wording. */
export const itemLinkField = (item: string): string => `link${inBrackets(item)}`;

/** When an item is due, as written in a wording: `due["lab-3"]`. */
export const itemDueField = (item: string): string => `due${inBrackets(item)}`;

export const MERGE_FIELDS: readonly MergeField[] = [
  field('student.first_name', 'First name', (context) => orNull(student(context).firstName)),
  field('student.last_name', 'Last name', (context) => orNull(student(context).lastName)),
  field('student.full_name', 'Full name', (context) => orNull(fullName(student(context)))),
  field('student.section', 'Section', (context) => student(context).section),
  field('student.last_visit', 'Date of the last visit', lastVisit),
  field('student.missing_items', 'Missing work that can be turned in', missingTitles),
  list('student.missing_list', 'Missing work with due dates', (context) =>
    missingList(context, callFor('missing', context.about)!),
  ),
  field('student.due_soon_items', 'Work that is due soon', dueSoonTitles),
  list('student.due_soon_list', 'Work due soon, with links', dueSoonLines),
  list('student.score_list', 'Recent scores', scoreList),
  list('student.topic_list', 'Weak topics with what helps', topicList),
  list(STUDENTS_LIST, 'The students, each with what was found', studentsList),
  field('reader.name', 'Who reads it', (context) => orNull(context.reader?.name ?? fullName(student(context)))),
  field('item.title', 'Title of the rule’s item', (context) => orNull(item(context)?.title)),
  field('item.due', 'When the rule’s item is due', (context) => itemDue(context, context.about.item)),
  link('item.link', 'Link to the rule’s item', (context) =>
    item(context) ? linkMark(item(context)!.title, item(context)!.url) : null,
  ),
  field('course.code', 'Course code', (context) => course(context).code),
  field('course.title', 'Course title', (context) => course(context).title),
  link('course.link', 'Link to the course', (context) => linkMark(course(context).title, course(context).url)),
  field('sender.name', 'Your name', (context) => orNull(context.sender.name)),
  field('sender.office_hours', 'Your office hours', (context) => orNull(context.sender.officeHours)),
  link('sender.booking', 'Link to book a time with you', (context) =>
    context.sender.bookingUrl ? linkMark('book a time with me', context.sender.bookingUrl) : null,
  ),
  field('sender.signature', 'Your signature', (context) => orNull(context.sender.signature)),
  ...MEASURE_NAMES.map((name) =>
    field(CATALOGUE[name].mergeField, CATALOGUE[name].title, (context) => measured(context, name)),
  ),
];

/** Columns are found by their name without the signs that a wording cannot hold, whatever their case. */
function columnValue(context: FieldContext, column: string): string | null {
  const plain = (text: string) => text.replace(/["\\]/g, '').toLowerCase();
  const found = Object.entries(student(context).fields).find(([name]) => plain(name) === plain(column));
  return found === undefined ? null : withoutMarks(orNull(String(found[1])) ?? '') || null;
}

export const FIELD_NAMES: ReadonlySet<string> = new Set(MERGE_FIELDS.map((f) => f.name));

/** A field as people read it; the name itself for one that is not known. */
export const fieldTitle = (name: string): string =>
  MERGE_FIELDS.find((f) => f.name === name)?.title ?? namedColumn(name) ?? name;

/** The values of the named fields as the nested object that a template reads. */
export function fieldValues(
  names: Iterable<string>,
  context: FieldContext,
): Record<string, Record<string, string | null>> {
  const wanted = new Set(names);
  const out: Record<string, Record<string, string | null>> = {};
  for (const f of MERGE_FIELDS) {
    if (!wanted.has(f.name)) continue;
    const [scope, key] = f.name.split('.') as [string, string];
    // Of several students at once nothing is said that is true of one.
    const ofOne = context.together !== undefined && scope === 'student';
    const value = ofOne ? null : f.value(context);
    (out[scope] ??= {})[key] = value === null || f.kind !== 'value' ? value : withoutMarks(value);
  }
  for (const name of wanted) {
    const column = namedColumn(name);
    if (column !== null) (out['column'] ??= {})[column] = context.together ? null : columnValue(context, column);
    const id = linkedItem(name);
    const due = dueItem(name);
    if (due !== null) (out['due'] ??= {})[due] = itemDue(context, due);
    const linked = id === null ? undefined : course(context).items[course(context).itemIndex.get(id) ?? -1];
    if (linked) (out['link'] ??= {})[id!] = linkMark(linked.title, linked.url);
  }
  return out;
}
