/** The merge fields: personal values that a wording may name, and what they are for one student. */
import type { Course } from '../course/course.ts';
import { fullName } from '../course/person.ts';
import { leavesOf, type Condition } from '../conditions/condition.ts';
import { valueWords } from '../conditions/sentence.ts';
import { CATALOGUE } from '../measures/catalogue.ts';
import type { Facts } from '../measures/facts.ts';
import { mayBeLeftOut, MEASURE_NAMES, type MeasureCall, type MeasureName } from '../measures/measure.ts';
import { valueAt } from '../measures/timeline.ts';
import type { Instant } from '../time/instant.ts';
import { missingList, scoreList, topicList } from './lists.ts';
import { linkMark, withoutMarks } from './markup.ts';
import { listWords, longDayWords, timeWords } from '../time/words.ts';

export interface Sender {
  readonly name: string;
  readonly signature: string;
  readonly officeHours: string;
  /** Where students book a time, http or https; empty when nowhere. */
  readonly bookingUrl?: string | undefined;
}

export interface FieldContext {
  readonly facts: Facts;
  /** Roster index of the student. */
  readonly person: number;
  readonly sender: Sender;
  readonly about: About;
  readonly at: Instant;
  /** Who reads it, when it is not the student. */
  readonly reader?: { readonly name: string } | undefined;
}

/** What a condition is about, for the fields that speak of it. */
export interface About {
  /** The first item it names. */
  readonly item: string | null;
  /** Its measures with their parameters. */
  readonly calls: readonly MeasureCall[];
}

export const ABOUT_NOTHING: About = { item: null, calls: [] };

export function aboutOf(condition: Condition): About {
  const leaves = leavesOf(condition);
  return { item: leaves.map((l) => l.item ?? l.items?.[0]).find((id) => id !== undefined) ?? null, calls: leaves };
}

export interface MergeField {
  /** As written in a wording: `student.first_name`. */
  readonly name: string;
  readonly title: string;
  /** True when its value has lines and links of its own. */
  readonly marked?: boolean;
  /** Null where there is nothing to say of this student. */
  value(of: FieldContext): string | null;
}

const student = (of: FieldContext) => of.facts.course.people[of.person]!;
const course = (of: FieldContext): Course => of.facts.course;
const item = (of: FieldContext) => course(of).items[course(of).itemIndex.get(of.about.item ?? '') ?? -1];
const orNull = (text: string | undefined): string | null => (text === undefined || text.trim() === '' ? null : text);

/** The measure as the rule asks for it, or of its item, or of the whole course; null where it would need to be told more. */
function callFor(measure: MeasureName, about: About): MeasureCall | null {
  const asked = about.calls.find((c) => c.measure === measure);
  if (asked) return asked;
  const of = CATALOGUE[measure];
  const needed = Object.keys(of.parameters).filter((name) => !mayBeLeftOut(of, name));
  if (needed.length === 0) return { measure };
  return needed.join() === 'item' && about.item !== null ? { measure, item: about.item } : null;
}

function measured(of: FieldContext, measure: MeasureName): string | null {
  const call = callFor(measure, of.about);
  if (!call || (call.item !== undefined && !course(of).itemIndex.has(call.item))) return null;
  const value = valueAt(of.facts.timeline(of.person, call), of.at);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return typeof value === 'number' ? valueWords(value, CATALOGUE[measure].unit) : value;
}

const day = (of: FieldContext, at: Instant | null): string | null =>
  at === null ? null : longDayWords(at, course(of).timeZone);

function lastVisit(of: FieldContext): string | null {
  const fact = of.facts.fact(of.person, { measure: 'daysSinceVisit' }, of.at);
  return fact.kind === 'last' ? day(of, fact.at) : null;
}

/** What the rule found missing, or all that is; a live session that has passed can no longer be handed in. */
function missingTitles(of: FieldContext): string | null {
  const fact = of.facts.fact(of.person, callFor('missing', of.about)!, of.at);
  if (fact.kind !== 'items') return null;
  const sessions = new Set(course(of).items.flatMap((i) => (i.kind === 'session' ? [i.title] : [])));
  return orNull(listWords(fact.items.map((i) => i.title).filter((title) => !sessions.has(title))));
}

function itemDue(of: FieldContext): string | null {
  if (!item(of)) return null;
  const fact = of.facts.fact(of.person, { measure: 'hoursUntilDue', item: of.about.item! }, of.at);
  if (fact.kind !== 'due' || fact.at === null) return null;
  return `${day(of, fact.at)}, ${timeWords(fact.at, course(of).timeZone)}`;
}

const field = (name: string, title: string, value: MergeField['value']): MergeField => ({ name, title, value });

const marked = (name: string, title: string, value: MergeField['value']): MergeField => ({
  name,
  title,
  value,
  marked: true,
});

/** Links to items of the course are fields too, one an item: `link["lab-3"]`. */
const ITEM_LINK = /^link(?:\.([\w-]+)|\['((?:[^'\\]|\\.)+)'\]|\["((?:[^"\\]|\\.)+)"\])$/;

/** The item that a link field names, or null for a field of another kind. */
export function linkedItem(name: string): string | null {
  const [, plain, single, double] = ITEM_LINK.exec(name) ?? [];
  return plain ?? single ?? double ?? null;
}

/** A link to an item, as written in a wording. */
export const itemLinkField = (item: string): string => `link["${item.replace(/["\\]/g, '')}"]`;

export const MERGE_FIELDS: readonly MergeField[] = [
  field('student.first_name', 'First name', (of) => orNull(student(of).firstName)),
  field('student.last_name', 'Last name', (of) => orNull(student(of).lastName)),
  field('student.full_name', 'Full name', (of) => orNull(fullName(student(of)))),
  field('student.section', 'Section', (of) => student(of).section),
  field('student.last_visit', 'Day of the last visit', lastVisit),
  field('student.missing_items', 'What is missing and can be handed in', missingTitles),
  marked('student.missing_list', 'List: missing work with due dates', (of) =>
    missingList(of, callFor('missing', of.about)!),
  ),
  marked('student.score_list', 'List: recent scores', scoreList),
  marked('student.topic_list', 'List: weak topics with what helps', topicList),
  field('reader.name', 'Who reads it', (of) => orNull(of.reader?.name ?? fullName(student(of)))),
  field('item.title', 'Title of the rule’s item', (of) => orNull(item(of)?.title)),
  field('item.due', 'When the rule’s item is due', itemDue),
  marked('item.link', 'Link to the rule’s item', (of) => (item(of) ? linkMark(item(of)!.title, item(of)!.url) : null)),
  field('course.code', 'Course code', (of) => course(of).code),
  field('course.title', 'Course title', (of) => course(of).title),
  marked('course.link', 'Link to the course', (of) => linkMark(course(of).title, course(of).url)),
  field('sender.name', 'Your name', (of) => orNull(of.sender.name)),
  field('sender.office_hours', 'Your office hours', (of) => orNull(of.sender.officeHours)),
  marked('sender.booking', 'Link to book a time with you', (of) =>
    of.sender.bookingUrl ? linkMark('book a time with me', of.sender.bookingUrl) : null,
  ),
  field('sender.signature', 'Your signature', (of) => orNull(of.sender.signature)),
  ...MEASURE_NAMES.map((name) => field(CATALOGUE[name].mergeField, CATALOGUE[name].title, (of) => measured(of, name))),
];

export const FIELD_NAMES: ReadonlySet<string> = new Set(MERGE_FIELDS.map((f) => f.name));

/** The values of the named fields as the nested object that a template reads. */
export function fieldValues(names: Iterable<string>, of: FieldContext): Record<string, Record<string, string | null>> {
  const wanted = new Set(names);
  const out: Record<string, Record<string, string | null>> = {};
  for (const f of MERGE_FIELDS) {
    if (!wanted.has(f.name)) continue;
    const [scope, key] = f.name.split('.') as [string, string];
    const value = f.value(of);
    (out[scope] ??= {})[key] = value === null || f.marked ? value : withoutMarks(value);
  }
  for (const name of wanted) {
    const id = linkedItem(name);
    const linked = id === null ? undefined : course(of).items[course(of).itemIndex.get(id) ?? -1];
    if (linked) (out['link'] ??= {})[id!] = linkMark(linked.title, linked.url);
  }
  return out;
}
