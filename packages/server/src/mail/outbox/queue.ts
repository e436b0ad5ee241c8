/** Which messages a claim takes, and what it needs to know beside them, read for all at once. */
import type { Instant } from '@zest-bell/core/time';
import type { RecipientKind } from '@zest-bell/core/rounds';
import { move } from '../nudges/transitions.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { leavingOthers, rowsOf, select } from '../../platform/database/query.ts';
import { messageHolds } from '../nudges/entity.ts';

interface Queued {
  readonly id: number;
  readonly course: number;
  readonly kind: RecipientKind;
  readonly name: string;
  readonly address: string;
  readonly attempts: number;
}

/** A message of a nudge. */
export interface QueuedNudge extends Queued {
  readonly plainMail: null;
  readonly nudge: number;
  /** Its nudge's state is read from it. 1 for yes, as stored. */
  readonly lead: boolean | number;
  readonly reader: string | null;
  readonly variant: number | null;
  /** Messages of one bundle go as one mail, those of them that still have to (engine R11a). */
  readonly bundle: string | null;
  // Of its nudge:
  readonly rule: string | null;
  readonly student: string;
  readonly roundAt: Instant;
  readonly step: number;
  readonly wording: string;
  /** The instructor’s own text for it, as JSON. */
  readonly edited: string | null;
  /** Who approved it; null for what leaves on its own. */
  readonly decidedBy: string | null;
}

/** A mail that is no nudge. */
export interface QueuedPlainMail extends Queued {
  readonly plainMail: number;
  readonly nudge: null;
}

export type QueuedMessage = QueuedNudge | QueuedPlainMail;

export const isOfNudge = (message: QueuedMessage): message is QueuedNudge => message.nudge !== null;

export interface Reservation {
  readonly worker: string;
  readonly now: Instant;
  readonly limit: number;
  /** Courses with waiting messages. */
  readonly without: ReadonlySet<number>;
  /** Rules with messages that wait for data, by course. */
  readonly stale: ReadonlyMap<number, ReadonlySet<string>>;
  /** Sendings that a person can still take back. */
  readonly waiting: readonly number[];
  /** Domains to which nothing can leave now: what goes there stays in the queue. */
  readonly crowded?: readonly string[];
  /** The most that is taken of a course. */
  readonly room: (course: number) => number;
  /** When a course was last taken of, as a number that rises; those that were not, or longest ago, come first. */
  readonly served?: ReadonlyMap<number, number>;
}

/** A pattern of `like` for the addresses of a domain. */
const endsIn = (domain: string): string => `%@${domain.replace(/[!%_]/g, '!$&')}`;

/** Courses that are taken of at once: what messages of one share is read once for all of them. */
const MOST_COURSES = 4;

/**
 * Takes messages that are due, the longest due first, every course its share in turn, so that a large round holds up nobody else's.
 * They are this process's until it settles or hands them over.
 */
export async function reserve(
  em: Tx<'claim'>,
  { worker, now, limit, without, stale, waiting, crowded = [], room, served = new Map() }: Reservation,
): Promise<QueuedMessage[]> {
  if (limit <= 0) return [];
  const knex = em.getKnex();
  const due = () => {
    const query = knex('message as m').where('m.state', 'queued').where('m.send_at', '<=', now);
    if (waiting.length > 0)
      void query.where((own) => void own.whereNull('m.sending').orWhereNotIn('m.sending', [...waiting]));
    for (const domain of crowded) void query.whereRaw("lower(m.address) not like ? escape '!'", [endsIn(domain)]);
    for (const [course, rules] of stale) {
      query.whereNotExists((waits) => {
        void waits
          .select(knex.raw('1'))
          .from('nudge as w')
          .whereRaw('w.id = m.nudge')
          .where('w.course', course)
          .whereIn('w.rule', [...rules]);
      });
    }
    return query;
  };
  const waitingCourses = await rowsOf<{ course: number }>(
    em,
    due()
      .whereNotIn('m.course', [...without])
      .groupBy('m.course')
      .orderByRaw('min(m.send_at)')
      .select('m.course'),
  );
  const turnOf = ({ course }: { readonly course: number }) => served.get(course) ?? 0;
  const courses = waitingCourses
    .filter(({ course }) => room(course) > 0)
    .sort((a, b) => turnOf(a) - turnOf(b))
    .slice(0, Math.min(limit, MOST_COURSES));
  const ids: number[] = [];
  for (const [i, { course }] of courses.entries()) {
    const share = Math.min(room(course), Math.ceil((limit - ids.length) / (courses.length - i)));
    const query = due().where('m.course', course).orderBy('m.send_at').orderBy('m.id').limit(share).select('m.id');
    ids.push(...(await rowsOf<{ id: number }>(em, leavingOthers(em, query, 'm'))).map((row) => row.id));
  }
  const bundles = await rowsOf<{ bundle: string; course: number }>(
    em,
    knex('message').whereIn('id', ids).whereNotNull('bundle').distinct('bundle', 'course'),
  );
  // What goes as one mail is taken as a whole, whatever the limit: it takes one line. Rules of other courses may have the same keys.
  if (bundles.length > 0) {
    const others = due()
      .whereIn(
        ['m.bundle', 'm.course'],
        bundles.map(({ bundle, course }) => [bundle, course]),
      )
      .whereNotIn('m.id', ids)
      .select('m.id');
    ids.push(...(await rowsOf<{ id: number }>(em, others)).map((row) => row.id));
  }
  const taken = await move(em, ids, { to: 'handing', from: ['queued'], now, set: { claimedBy: worker, attempts: 1 } });
  if (taken.length === 0) return [];
  const query = knex('message as m')
    .leftJoin('nudge as n', 'n.id', 'm.nudge')
    .whereIn('m.id', taken)
    .orderBy('m.send_at')
    .orderBy('m.id')
    .select(
      'm.id',
      'm.nudge',
      'm.course',
      'm.kind',
      'm.lead',
      'm.reader',
      'm.name',
      'm.address',
      'm.attempts',
      'm.variant',
      'm.bundle',
    )
    .select({ plainMail: 'm.plain_mail', roundAt: 'n.round_at' })
    .select('n.rule', 'n.student', 'n.step', 'n.wording', 'n.edited')
    .select({ decidedBy: 'n.decided_by' });
  return rowsOf<QueuedMessage>(em, query);
}

/** The text that another message of the same nudge was made from, by nudge. */
export async function variantsBeside(em: Em, nudges: readonly number[]): Promise<ReadonlyMap<number, number>> {
  const rows = await select(em, messageHolds, ['nudge', 'variant'], (query) =>
    query.whereIn('nudge', [...nudges]).whereNotNull('variant'),
  );
  return new Map(rows.map((r) => [r.nudge!, r.variant!]));
}

/**
 * The last message of the same rule and spell that reached the same address, by nudge and address: a later step answers it
 * (RFC 5322 §3.6.4).
 */
export async function threads(em: Em, nudges: readonly number[]): Promise<ReadonlyMap<string, string>> {
  const knex = em.getKnex();
  const query = knex('nudge as later')
    .join('nudge as earlier', function () {
      this.on('earlier.course', 'later.course')
        .andOn('earlier.student', 'later.student')
        .andOn('earlier.rule', 'later.rule')
        .andOn('earlier.spell_start', 'later.spell_start')
        .andOn('earlier.id', '<', 'later.id');
    })
    .join('attempt as a', 'a.nudge', 'earlier.id')
    .whereIn('later.id', [...nudges])
    .where('a.outcome', 'sent')
    .orderBy('earlier.id')
    .orderBy('a.id')
    .select({ nudge: 'later.id', address: 'a.address', messageId: 'a.message_id' });
  const rows = await rowsOf<{ nudge: number; address: string; messageId: string }>(em, query);
  return new Map(rows.map((r) => [threadKey(r.nudge, r.address), r.messageId]));
}

export const threadKey = (nudge: number, address: string): string => `${nudge} ${address}`;
