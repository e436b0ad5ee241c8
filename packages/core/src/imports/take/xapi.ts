/**
 * Statements of the Experience API (xAPI 1.0.3 and 2.0) as events and grades: who, by mailbox, hash or account; did what, by the
 * verbs that profiles publish; with which item, by its page address, its id, or what somebody chose for it.
 */
import { sha1 } from '@noble/hashes/legacy';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils';
import { z } from 'zod';
import { EVENT_KINDS, isFromList, NEEDS_ITEM, type EventKind, type LastSeenKind } from '../../activity/event.ts';
import { parseInstant } from '../../time/instant.ts';
import type { Choices, ImportDraft, DraftItem, DraftPerson } from './draft.ts';
import { parseJson } from '../read/json.ts';
import { RefusedRow } from '../read/refused.ts';
import type { Outcome } from './facts.ts';
import { UnreadableFile } from '../read/text.ts';

/** What a verb means here; `score` is a grade, `nothing` is known to say nothing about engagement. */
export type VerbMeaning = Exclude<EventKind, LastSeenKind> | 'score' | 'nothing';
export const VERB_MEANINGS: readonly VerbMeaning[] = [
  ...EVENT_KINDS.filter((kind) => !isFromList(kind)),
  'score',
  'nothing',
];

/** Verbs of the published vocabularies, by their IRIs. Typed from memory of ADL's, TinCan's and Activity Streams' lists. */
export const XAPI_VERBS: Readonly<Record<string, VerbMeaning>> = {
  'https://w3id.org/xapi/adl/verbs/logged-in': 'signIn',
  'https://brindlewaye.com/xAPITerms/verbs/loggedin/': 'signIn',
  'https://w3id.org/xapi/adl/verbs/logged-out': 'nothing',
  'http://adlnet.gov/expapi/verbs/experienced': 'open',
  'http://adlnet.gov/expapi/verbs/launched': 'open',
  'http://adlnet.gov/expapi/verbs/initialized': 'open',
  'http://adlnet.gov/expapi/verbs/resumed': 'open',
  'http://adlnet.gov/expapi/verbs/progressed': 'open',
  'http://adlnet.gov/expapi/verbs/interacted': 'visit',
  'http://id.tincanapi.com/verb/viewed': 'open',
  'http://activitystrea.ms/schema/1.0/read': 'open',
  'http://activitystrea.ms/schema/1.0/watch': 'open',
  'http://activitystrea.ms/schema/1.0/access': 'open',
  'http://activitystrea.ms/schema/1.0/open': 'open',
  'http://adlnet.gov/expapi/verbs/attempted': 'practice',
  'http://adlnet.gov/expapi/verbs/answered': 'practice',
  'http://activitystrea.ms/schema/1.0/submit': 'submit',
  'https://w3id.org/xapi/adl/verbs/submitted': 'submit',
  'http://adlnet.gov/expapi/verbs/commented': 'post',
  'http://adlnet.gov/expapi/verbs/responded': 'post',
  'http://activitystrea.ms/schema/1.0/post': 'post',
  'http://id.tincanapi.com/verb/replied': 'post',
  'http://adlnet.gov/expapi/verbs/attended': 'attend',
  'http://activitystrea.ms/schema/1.0/attend': 'attend',
  'http://activitystrea.ms/schema/1.0/absent': 'absent',
  'http://id.tincanapi.com/verb/skipped': 'nothing',
  'http://adlnet.gov/expapi/verbs/completed': 'complete',
  'http://activitystrea.ms/schema/1.0/complete': 'complete',
  'http://adlnet.gov/expapi/verbs/passed': 'score',
  'http://adlnet.gov/expapi/verbs/failed': 'score',
  'http://adlnet.gov/expapi/verbs/scored': 'score',
  'http://id.tincanapi.com/verb/rated': 'nothing',
  'http://adlnet.gov/expapi/verbs/registered': 'nothing',
  'http://adlnet.gov/expapi/verbs/exited': 'nothing',
  'http://adlnet.gov/expapi/verbs/suspended': 'nothing',
  'http://adlnet.gov/expapi/verbs/terminated': 'nothing',
};
export const VOIDED = 'http://adlnet.gov/expapi/verbs/voided';

/** What somebody chose for verbs, people and activities of statements and files, for all that come. */
export interface CourseMeanings extends Choices {
  readonly verbs?: Readonly<Record<string, VerbMeaning>> | undefined;
}

/** As much of a statement as is used here; what else it says is kept by the code that keeps statements. */
const statementSchema = z.looseObject({
  id: z.string().optional(),
  actor: z.looseObject({
    objectType: z.string().optional(),
    name: z.string().optional(),
    mbox: z.string().optional(),
    mbox_sha1sum: z.string().optional(),
    openid: z.string().optional(),
    account: z.looseObject({ homePage: z.string(), name: z.string() }).optional(),
  }),
  verb: z.looseObject({ id: z.string() }),
  object: z.looseObject({
    objectType: z.string().optional(),
    id: z.string().optional(),
    definition: z
      .looseObject({ name: z.record(z.string(), z.string()).optional(), type: z.string().optional() })
      .optional(),
  }),
  result: z
    .looseObject({
      score: z
        .looseObject({
          scaled: z.number().optional(),
          raw: z.number().optional(),
          min: z.number().optional(),
          max: z.number().optional(),
        })
        .optional(),
    })
    .optional(),
  timestamp: z.string().optional(),
  stored: z.string().optional(),
});
export type XapiStatement = z.infer<typeof statementSchema>;

export interface XapiMap {
  /** Meanings of verbs that are the course's own, before the published ones. */
  readonly verbs?: Readonly<Record<string, VerbMeaning>> | undefined;
  /** When statements without an instant of their own are taken to have happened. */
  readonly asOf: number;
}

/**
 * The statements of a JSON array, of one object, or of one a line; each with its number (lines of JSON lines, else from 1).
 * Throws `UnreadableFile`.
 */
export function statementsOf(text: string): { readonly row: number; readonly json: unknown }[] {
  const whole = parsed(text);
  if (whole !== undefined) {
    const list = Array.isArray(whole) ? (whole as unknown[]) : listIn(whole);
    return list.map((json, i) => ({ row: i + 1, json }));
  }
  const lines = text
    .split(/\r?\n/)
    .flatMap((line, i) => (line.trim() === '' ? [] : [{ row: i + 1, json: parsed(line) }]));
  if (lines.every((l) => l.json === undefined))
    throw new UnreadableFile('This is no JSON that can be read. Export it again.');
  return lines;
}

/** A statement result has its list under a name. */
function listIn(whole: unknown): readonly unknown[] {
  const list = (whole as { statements?: unknown } | null)?.statements;
  return Array.isArray(list) ? list : [whole];
}

function parsed(text: string): unknown {
  try {
    return parseJson(text);
  } catch (error) {
    if (error instanceof UnreadableFile) throw error;
    return undefined;
  }
}

/** Takes one statement. Throws `RefusedRow` for one that fits nobody, no item, or says nothing that is known. */
export function importStatement(json: unknown, draft: ImportDraft, map: XapiMap): Outcome[] {
  const read = statementSchema.safeParse(json);
  if (!read.success) {
    const at = read.error.issues[0]?.path.join('.') || null;
    throw new RefusedRow(at, 'statement', 'This is no statement with an actor, a verb and an object');
  }
  const statement = read.data;
  const meaning = meaningOf(statement.verb.id, map.verbs);
  if (meaning === 'nothing') return ['same'];
  const person = personOf(statement, draft);
  const item = itemOf(statement, draft);
  const at = instantOf(statement, map.asOf);
  const id = statement.id === undefined ? {} : { id: `xapi:${statement.id.toLowerCase()}` };
  const outcomes: Outcome[] = [];
  const kind = meaning === 'score' ? null : kindFor(meaning, item, isCourse(statement, draft));
  if (kind !== null) {
    if (!item && NEEDS_ITEM.has(kind)) throw draft.unknownItem(saidItem(statement), 'object');
    outcomes.push(draft.facts.addEvent({ person: person.id, kind, item: item?.id ?? null, at, ...id }));
  }
  const points = item && (meaning === 'score' || meaning === 'complete') ? pointsOf(statement, item) : null;
  if (points !== null)
    outcomes.push(draft.facts.addGrade({ person: person.id, item: item!.id, criterion: null, points, at, ...id }));
  else if (meaning === 'score') {
    if (!item) throw draft.unknownItem(saidItem(statement), 'object');
    outcomes.push(draft.facts.addEvent({ person: person.id, kind: 'complete', item: item.id, at, ...id }));
  }
  return outcomes;
}

function meaningOf(verb: string, own: XapiMap['verbs']): VerbMeaning {
  const meaning =
    own && Object.hasOwn(own, verb) ? own[verb] : Object.hasOwn(XAPI_VERBS, verb) ? XAPI_VERBS[verb] : null;
  if (meaning) return meaning;
  throw new RefusedRow('verb', 'verb', `Nobody said what the verb “${verb}” means in this course`);
}

/** An attempt at something that is no practice only opens it; opening the course itself is a visit. */
export function kindFor(meaning: EventKind, item: DraftItem | null, course: boolean): EventKind {
  if (meaning === 'practice' && item && item.kind !== 'practice') return 'open';
  return meaning === 'open' && course ? 'visit' : meaning;
}

const COURSE_TYPE = 'http://adlnet.gov/expapi/activities/course';

/** Whether a statement is about the course itself: by its type, or by the course's own page. */
function isCourse({ object }: XapiStatement, draft: ImportDraft): boolean {
  const url = draft.json.course.url?.replace(/\/$/, '').toLowerCase();
  return (
    object.definition?.type === COURSE_TYPE ||
    (url !== undefined && object.id?.replace(/\/$/, '').toLowerCase() === url)
  );
}

function personOf({ actor }: XapiStatement, draft: ImportDraft): DraftPerson {
  const email = actor.mbox?.replace(/^mailto:/i, '') ?? '';
  const account = actor.account?.name ?? '';
  if (actor.mbox_sha1sum !== undefined) {
    const sum = actor.mbox_sha1sum.toLowerCase();
    const person = draft.json.people.find(
      (p) => p.email && (mailboxSum(p.email) === sum || mailboxSum(p.email.toLowerCase()) === sum),
    );
    if (person) return person;
  }
  return draft.person({ id: account, email, name: email || account ? '' : (actor.name ?? '') }, () => 'actor');
}

const sums = new Map<string, string>();
/** The SHA-1 of a mailbox address with its `mailto:` (xAPI 2.4.2.3). */
export function mailboxSum(email: string): string {
  let sum = sums.get(email);
  if (sum === undefined) {
    if (sums.size > 20_000) sums.clear();
    sums.set(email, (sum = bytesToHex(sha1(utf8ToBytes(`mailto:${email}`)))));
  }
  return sum;
}

const nameOfObject = ({ object }: XapiStatement): string => Object.values(object.definition?.name ?? {})[0] ?? '';
const saidItem = (statement: XapiStatement): string => statement.object.id ?? nameOfObject(statement);

const itemOf = (statement: XapiStatement, draft: ImportDraft): DraftItem | null =>
  itemAt(draft, statement.object.id ?? '', nameOfObject(statement));

/** By what somebody chose for its address, its page address, its own id, the end of its address, or its name. */
export function itemAt(draft: ImportDraft, id: string, name: string): DraftItem | null {
  const direct = draft.item(id);
  if (direct !== undefined) return direct;
  const plain = id.replace(/\/$/, '').toLowerCase();
  const byUrl = draft.json.items!.find((i) => i.url != null && i.url.replace(/\/$/, '').toLowerCase() === plain);
  if (byUrl) return byUrl;
  const end = plain.split(/[/#]/).pop() ?? '';
  return (end !== '' && draft.item(decoded(end))) || draft.item(name) || null;
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

function instantOf(statement: XapiStatement, asOf: number): number {
  const text = statement.timestamp ?? statement.stored;
  if (text === undefined) return asOf;
  try {
    // Seconds may have more digits than an instant keeps.
    return parseInstant(text.replace(/(\.\d{3})\d+/, '$1'));
  } catch {
    throw new RefusedRow('timestamp', 'date', `“${text}” is no instant with an offset`);
  }
}

const pointsOf = (statement: XapiStatement, item: DraftItem): number | null =>
  statement.result?.score ? scaledPoints(statement.result.score, item) : null;

export interface Score {
  readonly scaled?: number | undefined;
  readonly raw?: number | undefined;
  readonly min?: number | undefined;
  readonly max?: number | undefined;
}

/** A score in the points of its item; null for one that is less than nothing. */
export function scaledPoints({ raw, min = 0, max, scaled }: Score, item: DraftItem): number | null {
  const share = scaled ?? (raw !== undefined && max !== undefined && max > min ? (raw - min) / (max - min) : undefined);
  if (share !== undefined && item.points != null) return Math.round(Math.max(0, share) * item.points * 1e9) / 1e9;
  return raw !== undefined && raw >= 0 ? raw : null;
}
