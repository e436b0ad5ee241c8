/**
 * Events of Caliper Analytics (1EdTech, 1.1 and 1.2, typed from memory) as events and grades of a course: who, by account or mailbox or
 * what somebody chose for them; did what, by the type and the action; with which item, by its address or what somebody chose for it.
 */
import { z } from 'zod';
import { NEEDS_ITEM } from '../../activity/event.ts';
import { parseInstant } from '../../time/instant.ts';
import { RefusedRow } from '../read/refused.ts';
import type { ImportDraft, DraftItem, DraftPerson } from './draft.ts';
import type { Outcome } from './facts.ts';
import { itemAt, kindFor, scaledPoints, type VerbMeaning } from './xapi.ts';

export const CALIPER_VERSIONS = [
  'http://purl.imsglobal.org/ctx/caliper/v1p2',
  'http://purl.imsglobal.org/ctx/caliper/v1p1',
];

/** What an event means, by its type and its action; a course may say otherwise, under the same names. */
const CALIPER_MEANINGS: Readonly<Record<string, VerbMeaning>> = {
  'SessionEvent LoggedIn': 'signIn',
  'NavigationEvent NavigatedTo': 'open',
  'ViewEvent Viewed': 'open',
  'AssignableEvent Submitted': 'submit',
  'AssessmentEvent Submitted': 'submit',
  'MessageEvent Posted': 'post',
  'MediaEvent Ended': 'complete',
  'AssignableEvent Completed': 'complete',
  'GradeEvent Graded': 'score',
};

interface Entity {
  readonly id: string;
  readonly name?: string | undefined;
  readonly [more: string]: unknown;
}
const entity: z.ZodType<string | Entity> = z.union([z.string().min(1), z.looseObject({ id: z.string().min(1) })]);
const eventSchema = z.looseObject({
  id: z.string().min(1).max(300),
  type: z.string().regex(/Event$/),
  actor: entity,
  action: z.string().min(1),
  object: entity,
  eventTime: z.iso.datetime({ offset: true }),
  generated: entity.optional(),
});
export type CaliperEvent = z.infer<typeof eventSchema>;

export const caliperEnvelope = z.looseObject({
  sensor: z.string().min(1),
  sendTime: z.iso.datetime({ offset: true }),
  dataVersion: z.string(),
  data: z.array(z.looseObject({ id: z.string().min(1), type: z.string().min(1) })).max(1000),
});

/** Null for what describes a thing and is no event. Throws the problems of an event that does not fit. */
export function caliperEvent(data: { readonly type: string }): CaliperEvent | null {
  return data.type.endsWith('Event') ? eventSchema.parse(data) : null;
}

const idOf = (of: string | Entity): string => (typeof of === 'string' ? of : of.id);
const nameOf = (of: string | Entity): string => (typeof of !== 'string' && typeof of.name === 'string' ? of.name : '');
const partOf = (of: unknown, name: string): string | Entity | null => {
  const part = typeof of === 'object' && of !== null ? (of as Record<string, unknown>)[name] : undefined;
  const read = entity.safeParse(part);
  return read.success ? read.data : null;
};

/** Takes one event. `same`: it means nothing here. Throws `RefusedRow` for one that names nobody, or no item where it needs one. */
export function importCaliper(
  json: unknown,
  draft: ImportDraft,
  own: Readonly<Record<string, VerbMeaning>> | undefined,
): Outcome[] {
  const event = eventSchema.parse(json);
  const name = `${event.type} ${event.action}`;
  const meaning = (own && Object.hasOwn(own, name) ? own[name] : CALIPER_MEANINGS[name]) ?? 'nothing';
  if (meaning === 'nothing') return ['same'];
  const at = parseInstant(event.eventTime.replace(/(\.\d{3})\d+/, '$1'));
  const id = `caliper:${event.id.toLowerCase()}`;
  if (meaning === 'score') return gradeOf(event, draft, at, id);
  const person = personOf(event.actor, draft);
  const item = itemOf(event.object, draft);
  const url = draft.json.course.url?.replace(/\/$/, '').toLowerCase();
  const isCourse = url !== undefined && idOf(event.object).replace(/\/$/, '').toLowerCase() === url;
  const opens = meaning === 'open' && !item ? 'visit' : meaning;
  const kind = kindFor(opens, item, isCourse);
  if (!item && NEEDS_ITEM.has(kind)) throw draft.unknownItem(idOf(event.object), 'object');
  return [draft.facts.addEvent({ id, person: person.id, kind, item: item?.id ?? null, at })];
}

/** The actor graded; the student is who the attempt was assigned to. */
function gradeOf(event: CaliperEvent, draft: ImportDraft, at: number, id: string): Outcome[] {
  const assignee = partOf(event.object, 'assignee');
  const assignable = partOf(event.object, 'assignable') ?? event.object;
  if (!assignee) throw new RefusedRow('object', 'noAssignee', 'This grade does not say whose attempt it is');
  const person = personOf(assignee, draft);
  const item = itemOf(assignable, draft);
  if (!item) throw draft.unknownItem(idOf(assignable), 'object');
  const { scoreGiven, maxScore } = (typeof event.generated === 'object' ? event.generated : {}) as Record<
    string,
    unknown
  >;
  if (typeof scoreGiven !== 'number') throw new RefusedRow('generated', 'noScore', 'This grade has no score');
  const points = scaledPoints({ raw: scoreGiven, ...(typeof maxScore === 'number' ? { max: maxScore } : {}) }, item);
  if (points === null) throw new RefusedRow('generated', 'negative', 'This score is less than zero');
  return [draft.facts.addGrade({ id, person: person.id, item: item.id, criterion: null, points, at })];
}

function personOf(of: string | Entity, draft: ImportDraft): DraftPerson {
  const said = idOf(of);
  const email = /^mailto:(.+)$/i.exec(said)?.[1] ?? '';
  const known =
    draft.chosenPerson({ id: said }) ??
    draft.personById(said) ??
    (email === '' ? undefined : draft.personByEmail(email)) ??
    draft.personById(endOf(said));
  return known ?? draft.person({ id: said }, () => 'actor');
}

const endOf = (address: string): string => {
  const end = address.replace(/\/$/, '').split(/[/#:]/).pop() ?? '';
  try {
    return decodeURIComponent(end);
  } catch {
    return end;
  }
};

/** The thing itself, or what it is a part of: a page of a chapter, a message of a forum. */
function itemOf(of: string | Entity, draft: ImportDraft): DraftItem | null {
  for (let thing: string | Entity | null = of, deep = 0; thing !== null && deep < 8; deep++) {
    const item = itemAt(draft, idOf(thing), nameOf(thing));
    if (item) return item;
    thing = partOf(thing, 'isPartOf');
  }
  return null;
}
