/**
 * What becomes of each reserved message: its second look (engine R9), then its text from the facts of that moment. Nothing
 * is written here, and no message can hurt another: whatever goes wrong with one is that one's own fate.
 */
import {
  domainsOf,
  firstOpen,
  MINUTE,
  needsYes,
  nextVariant,
  secondLook,
  type CompiledWording,
  type HeldReason,
  type Instant,
  type LoggedReason,
  type Parsed,
  type Rule,
} from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../services.ts';
import { RuleRow } from '../rules/entity.ts';
import { readableRule } from '../rules/repository.ts';
import { lastKey, lastVariants, loadWordings } from '../wording/repository.ts';
import { compose, type Composed } from './compose.ts';
import { threadKey, threads, variantsBeside, type QueuedMessage } from './queue.ts';

export type Fate =
  | { readonly kind: 'leaves'; readonly composed: Composed; readonly variant: number }
  | { readonly kind: 'waits'; readonly until: Instant }
  | { readonly kind: 'withdrawn'; readonly reason: LoggedReason }
  | { readonly kind: 'held'; readonly heldFor: HeldReason }
  /** It cannot be made. `trouble` says why and what to do. */
  | { readonly kind: 'broken'; readonly trouble: string };

export interface Judged {
  readonly message: QueuedMessage;
  readonly fate: Fate;
}

/** What the messages of one course share. */
interface CourseOfMail extends LiveCourse {
  readonly wordings: (key: string) => Parsed<CompiledWording>;
  readonly rules: ReadonlyMap<string, RuleRow>;
  readonly last: Map<string, number>;
}

export async function judge(services: Services, reserved: readonly QueuedMessage[]): Promise<Judged[]> {
  if (reserved.length === 0) return [];
  const { clock, logger } = services;
  const em = services.orm.em.fork();
  const now = clock.now();
  const nudges = [...new Set(reserved.map((m) => m.nudge))];
  const answered = await threads(em, nudges);
  const variants = new Map(await variantsBeside(em, nudges));
  const courses = new Map<number, CourseOfMail | null>();
  for (const id of new Set(reserved.map((m) => m.course))) {
    courses.set(
      id,
      await courseOfMail(
        em,
        services,
        id,
        reserved.filter((m) => m.course === id),
      ).catch((error: unknown) => {
        logger.error({ err: error, course: id }, 'a course cannot be read: its mail waits');
        return null;
      }),
    );
  }
  return reserved.map((message): Judged => {
    const course = courses.get(message.course);
    if (!course) return { message, fate: { kind: 'waits', until: now + MINUTE } };
    try {
      return { message, fate: fateOf(message, course) };
    } catch (error) {
      logger.error({ err: error, message: message.id }, 'a message cannot be made');
      return { message, fate: { kind: 'broken', trouble: CANNOT_BE_MADE } };
    }
  });

  function fateOf(message: QueuedMessage, course: CourseOfMail): Fate {
    const row = course.rules.get(message.rule ?? '');
    if (!row) return { kind: 'withdrawn', reason: 'ruleOff' };
    const rule = readableRule(row);
    if (!rule) return { kind: 'broken', trouble: UNREADABLE_RULE };
    const stays = look(message, course, row, rule, now);
    if (stays) return stays;
    const wording = course.wordings(message.wording);
    if (!wording.ok) return { kind: 'broken', trouble: troubleOf(wording.problems) };
    // A retry, and all messages of one nudge, are made from the text that was chosen first.
    const key = lastKey(message.wording, message.student);
    const variant =
      message.variant ??
      variants.get(message.nudge) ??
      nextVariant(wording.value.count, course.last.get(key) ?? null, message.student);
    const inReplyTo = answered.get(threadKey(message.nudge, message.address)) ?? null;
    const order = { message, course, rule, wording: wording.value, variant, inReplyTo, at: now };
    const composed = compose(services, order);
    if (!composed.ok) return { kind: 'broken', trouble: troubleOf(composed.problems) };
    variants.set(message.nudge, variant);
    course.last.set(key, variant);
    return { kind: 'leaves', composed: composed.value, variant };
  }
}

const CANNOT_BE_MADE = 'This message could not be written. Open its text and its rule, check both, and send it again.';
const UNREADABLE_RULE =
  'The rule behind this message cannot be read. Save the rule again, then send the message again.';
const troubleOf = (problems: readonly { readonly message: string }[]): string =>
  `The text of this message has a problem. ${problems.map((p) => p.message).join('. ')}. Fix the text, then send it again.`;

async function courseOfMail(
  em: Em,
  { live }: Services,
  id: number,
  messages: readonly QueuedMessage[],
): Promise<CourseOfMail> {
  const keys = [...new Set(messages.flatMap((m) => m.rule ?? []))];
  const rows = await em.find(RuleRow, { course: id, key: { $in: keys } }, { disableIdentityMap: true });
  return {
    ...(await live.get(em, id)),
    wordings: await loadWordings(em, id, [...new Set(messages.map((m) => m.wording))]),
    rules: new Map(rows.map((r) => [r.key, r])),
    last: await lastVariants(em, id, [...new Set(messages.map((m) => m.student))]),
  };
}

/** Why a message does not leave now; null when it does. */
function look(message: QueuedMessage, course: CourseOfMail, row: RuleRow, rule: Rule, now: Instant): Fate | null {
  const about = { rule, student: message.student, round: message.roundAt, step: message.step };
  const reason = secondLook(about, course.facts, now);
  if (reason) return { kind: 'withdrawn', reason };
  const open = firstOpen(now, course.course.settings.quietHours, course.course);
  if (open >= course.course.calendar.end) return { kind: 'withdrawn', reason: 'courseOver' };
  if (open > now) return { kind: 'waits', until: open };
  if (needsYes(message, domainsOf(course.row.sender)) && !row.outside.includes(message.address.toLowerCase())) {
    return { kind: 'held', heldFor: 'outside' };
  }
  return null;
}
