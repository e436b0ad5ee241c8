/**
 * What students did, as the platform tells it: events of Caliper Analytics 1.2 where it has one for them, statements of the Experience
 * API for the rest (both typed from memory). The same event always has the same id.
 */
import { createHash } from 'node:crypto';
import type { Item } from '@zest-bell/core/course';
import type { CampusEvent, CampusGrade } from '../campus/simulator.ts';

export interface Places {
  /** What the platform calls itself: the same wherever it is reached. */
  readonly base: string;
  /** The class, as the platform knows it. */
  readonly context: string;
  readonly items: readonly Item[];
}

/** A name-based UUID (RFC 9562, 5.5, with a namespace of none). */
export function uuidOf(name: string): string {
  const hash = createHash('sha1').update(name).digest();
  hash[6] = (hash[6]! & 0x0f) | 0x50;
  hash[8] = (hash[8]! & 0x3f) | 0x80;
  const hex = hash.toString('hex');
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20, 32)].join('-');
}

const DATA_VERSION = 'http://purl.imsglobal.org/ctx/caliper/v1p2';
const user = ({ base }: Places, person: string) => `${base}/users/${encodeURIComponent(person)}`;
const classAt = ({ base, context }: Places) => `${base}/classes/${encodeURIComponent(context)}`;
const itemAt = (places: Places, item: string) => `${classAt(places)}/items/${encodeURIComponent(item)}`;

type EventToTell = CampusEvent & { readonly item: string };
const HAS_ITEM = (e: CampusEvent): e is EventToTell => e.item !== null;

/** How Caliper says a kind of event; null where it has no word for it. */
function saidByCaliper(e: CampusEvent, places: Places): object | null {
  const ofClass = { id: classAt(places), type: 'CourseSection' };
  if (e.kind === 'signIn')
    return { type: 'SessionEvent', action: 'LoggedIn', object: { id: places.base, type: 'SoftwareApplication' } };
  if (e.kind === 'visit') return { type: 'NavigationEvent', action: 'NavigatedTo', object: ofClass };
  if (!HAS_ITEM(e)) return null;
  const thing = (type: string) => ({ id: itemAt(places, e.item), type });
  if (e.kind === 'open') return { type: 'ViewEvent', action: 'Viewed', object: thing('DigitalResource') };
  if (e.kind === 'submit')
    return { type: 'AssignableEvent', action: 'Submitted', object: thing('AssignableDigitalResource') };
  if (e.kind === 'post')
    return {
      type: 'MessageEvent',
      action: 'Posted',
      object: { id: `urn:uuid:${uuidOf(`message ${e.id}`)}`, type: 'Message', isPartOf: thing('Forum') },
    };
  if (e.kind === 'complete')
    return { type: 'AssignableEvent', action: 'Completed', object: thing('AssignableDigitalResource') };
  return null;
}

const VERBS: Readonly<Partial<Record<CampusEvent['kind'], string>>> = {
  practice: 'http://adlnet.gov/expapi/verbs/attempted',
  attend: 'http://adlnet.gov/expapi/verbs/attended',
  absent: 'http://activitystrea.ms/schema/1.0/absent',
};

export interface Messages {
  /** Events of Caliper. */
  readonly events: readonly object[];
  /** Statements of xAPI. */
  readonly statements: readonly object[];
}

export function messagesOf(
  told: { readonly events: readonly CampusEvent[]; readonly grades: readonly CampusGrade[] },
  places: Places,
): Messages {
  const events: object[] = [];
  const statements: object[] = [];
  for (const e of told.events) {
    const said = saidByCaliper(e, places);
    const verb = VERBS[e.kind];
    if (said)
      events.push({
        '@context': DATA_VERSION,
        id: `urn:uuid:${uuidOf(e.id)}`,
        ...said,
        actor: { id: user(places, e.person), type: 'Person' },
        eventTime: new Date(e.at).toISOString(),
      });
    else if (verb !== undefined && e.item !== null)
      statements.push({
        id: uuidOf(e.id),
        actor: { account: { homePage: places.base, name: e.person } },
        verb: { id: verb },
        object: { id: itemAt(places, e.item) },
        timestamp: new Date(e.at).toISOString(),
      });
    else throw new Error(`Nothing says ${e.kind}`);
  }
  for (const g of told.grades) events.push(gradeEvent(g, places));
  return { events, statements };
}

function gradeEvent(g: CampusGrade, places: Places): object {
  const item = places.items.find((i) => i.id === g.item);
  const attempt = {
    id: `urn:uuid:${uuidOf(`attempt ${g.id}`)}`,
    type: 'Attempt',
    assignee: { id: user(places, g.person), type: 'Person' },
    assignable: { id: itemAt(places, g.item), type: 'AssignableDigitalResource' },
  };
  return {
    '@context': DATA_VERSION,
    id: `urn:uuid:${uuidOf(g.id)}`,
    type: 'GradeEvent',
    action: 'Graded',
    actor: { id: places.base, type: 'SoftwareApplication' },
    object: attempt,
    eventTime: new Date(g.at).toISOString(),
    generated: {
      id: `urn:uuid:${uuidOf(`score ${g.id}`)}`,
      type: 'Score',
      scoreGiven: g.points,
      maxScore: item?.points ?? undefined,
    },
  };
}

export const envelopeOf = (data: readonly object[], { base }: Places, sendTime: number): object => ({
  sensor: `${base}/sensor`,
  sendTime: new Date(sendTime).toISOString(),
  dataVersion: DATA_VERSION,
  data,
});
