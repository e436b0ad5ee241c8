/**
 * What becomes of each reserved message: its second check (engine R9), then its text from the facts of that moment. Nothing
 * is written here, and no message can hurt another: whatever goes wrong with one is that one's own fate.
 */
import type { ParseResult } from '@zest-bell/core/problem';
import { MINUTE, type Instant } from '@zest-bell/core/time';
import { domainsOf } from '@zest-bell/core/course';
import type { Facts } from '@zest-bell/core/measures';
import { evidenceAt, type LeafEvidence } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';
import { mailingOf, type HeldReason } from '@zest-bell/core/nudges';
import {
  copyFor,
  nextVariant,
  saysNothing,
  textsOf,
  type CompiledWording,
  type Variant,
  type Wording,
} from '@zest-bell/core/wording';
import { firstOpen, needsYes, NudgeLog, secondLook } from '@zest-bell/core/rounds';
import { canReturn } from '@zest-bell/core/outcomes';
import type { LoggedReason } from '@zest-bell/core/exchange';
import { inVoiceOf, type LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { CourseServices } from '../../course/services.ts';
import { afterOthers } from '../../platform/turns/inTurns.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule } from '../../rules/repository.ts';
import { compiledOf, lastKey, lastVariants, loadWordings } from '../../wording/repository.ts';
import { openMailings, type OpenMailing } from '../byHand/open.ts';
import { openTrials, type Draw, type OpenTrial } from '../../wording/trials/draws.ts';
import { compose, type ComposedMail } from './compose.ts';
import { answersOf } from '../replies/answers.ts';
import { plainMails } from './plainMails.ts';
import {
  isOfNudge,
  threadKey,
  threads,
  variantsBeside,
  type QueuedMessage,
  type QueuedNudge,
  type QueuedPlainMail,
} from './queue.ts';

export type MessageVerdict =
  | {
      readonly kind: 'leaves';
      readonly composed: ComposedMail;
      /** Null for a mail that is no nudge. */
      readonly variant: number | null;
      /** Drawn by lot for this student, and not written yet. */
      readonly draw: Draw | null;
    }
  | { readonly kind: 'waits'; readonly until: Instant }
  | { readonly kind: 'withdrawn'; readonly reason: LoggedReason }
  | { readonly kind: 'held'; readonly heldFor: HeldReason }
  /** It cannot be made. `trouble` says why and what to do. */
  | { readonly kind: 'broken'; readonly trouble: string };

export interface JudgedMessage {
  readonly message: QueuedMessage;
  readonly fate: MessageVerdict;
  /** The other messages of its bundle, which leave as the same mail. */
  readonly riders?: readonly Rider[];
}

export interface Rider {
  readonly message: QueuedNudge;
  /** Of its own student. */
  readonly evidence: readonly LeafEvidence[];
}

/** All messages that a judgement is about. */
export const messagesIn = ({ message, riders = [] }: JudgedMessage): QueuedMessage[] => [
  message,
  ...riders.map((r) => r.message),
];

/** What the messages of one course share. */
interface CourseOfMail extends LiveCourse {
  readonly wordings: (key: string) => ParseResult<CompiledWording>;
  readonly rules: ReadonlyMap<string, RuleRow>;
  readonly last: Map<string, number>;
  readonly mailings: ReadonlyMap<number, OpenMailing>;
  readonly trials: ReadonlyMap<string, OpenTrial>;
  /** The students’ answers, where one of the rules stops at them. */
  readonly answers: NudgeLog;
}

/** `ahead` were judged before and are not written yet: these follow them as if they had been. */
export async function judge(
  services: CourseServices,
  reserved: readonly QueuedMessage[],
  ahead: readonly JudgedMessage[] = [],
): Promise<JudgedMessage[]> {
  if (reserved.length === 0) return [];
  const em = services.orm.em.fork();
  const plain = reserved.filter((m) => !isOfNudge(m));
  return [
    ...(await judgePlain(em, services, plain)),
    ...(await judgeNudges(em, services, reserved.filter(isOfNudge), ahead)),
  ];
}

/** A mail that is no nudge is kept as it was written, and leaves at any hour. */
async function judgePlain(
  em: Em,
  services: CourseServices,
  messages: readonly QueuedPlainMail[],
): Promise<JudgedMessage[]> {
  if (messages.length === 0) return [];
  const mailOf = await plainMails(em, services, messages);
  return messages.map((message) => {
    const mail = mailOf(message);
    if (!mail) return { message, fate: { kind: 'broken', trouble: CANNOT_BE_MADE } };
    const composed = { mail, parcel: null, evidence: [] };
    return { message, fate: { kind: 'leaves', composed, variant: null, draw: null } };
  });
}

async function judgeNudges(
  em: Em,
  services: CourseServices,
  reserved: readonly QueuedNudge[],
  ahead: readonly JudgedMessage[],
): Promise<JudgedMessage[]> {
  if (reserved.length === 0) return [];
  const { clock, logger } = services;
  const now = clock.now();
  const nudges = [...new Set(reserved.map((m) => m.nudge))];
  const answered = await threads(em, nudges);
  const variants = new Map(await variantsBeside(em, nudges));
  for (const { nudge, variant } of madeAhead(ahead)) variants.set(nudge.nudge, variant);
  const courses = new Map<number, CourseOfMail | null>();
  for (const id of new Set(reserved.map((m) => m.course))) {
    courses.set(
      id,
      await courseOfMail(
        em,
        services,
        id,
        reserved.filter((m) => m.course === id),
        ahead.filter(({ message }) => message.course === id),
      ).catch((error: unknown) => {
        logger.error({ err: error, course: id }, 'a course cannot be read: its mail waits');
        return null;
      }),
    );
  }
  const bundles = new Map<string, QueuedNudge[]>();
  const judged: JudgedMessage[] = [];
  for (const message of reserved) {
    await afterOthers(() => undefined);
    const course = courses.get(message.course);
    const bundle = course && message.bundle !== null ? `${message.course} ${message.bundle}` : null;
    const stays = bundle === null ? null : alone(message, () => stayOf(message, course!));
    if (bundle === null) judged.push(judgeOne(message));
    else if (stays) judged.push({ message, fate: stays });
    else bundles.set(bundle, [...(bundles.get(bundle) ?? []), message]);
  }
  for (const messages of bundles.values()) {
    judged.push(await afterOthers(() => judgeBundle(messages)));
  }
  return judged;

  function judgeOne(message: QueuedNudge): JudgedMessage {
    const course = courses.get(message.course);
    if (!course) return { message, fate: { kind: 'waits', until: now + MINUTE } };
    return { message, fate: alone(message, () => fateOf(message, course)) };
  }

  /** Whatever goes wrong with one message is that one's own fate. */
  function alone<F extends MessageVerdict | null>(message: QueuedNudge, judging: () => F): F | MessageVerdict {
    try {
      return judging();
    } catch (error) {
      logger.error({ err: error, message: message.id }, 'a message cannot be made');
      return { kind: 'broken', trouble: CANNOT_BE_MADE };
    }
  }

  /** Why a message of a rule does not leave now; null where nothing keeps it. */
  function stayOf(message: QueuedNudge, course: CourseOfMail): MessageVerdict | null {
    const row = course.rules.get(message.rule ?? '');
    if (!row) return { kind: 'withdrawn', reason: 'ruleOff' };
    const rule = readableRule(row);
    if (!rule) return { kind: 'broken', trouble: UNREADABLE_RULE };
    return look(message, course, row, rule, now);
  }

  /** One mail about all of them, in roster order; the first carries the others (engine R11a). */
  function judgeBundle(messages: readonly QueuedNudge[]): JudgedMessage {
    const course = courses.get(messages[0]!.course)!;
    const placeOf = (m: QueuedNudge) => course.course.personIndex.get(m.student) ?? 0;
    const [carrier, ...others] = messages.toSorted((a, b) => placeOf(a) - placeOf(b)) as [
      QueuedNudge,
      ...QueuedNudge[],
    ];
    const { when } = readableRule(course.rules.get(carrier.rule ?? '')!)!;
    const fate = alone(carrier, () => fateOf(carrier, course, [carrier, ...others].map(placeOf)));
    const riders = others.map((message): Rider => ({
      message,
      evidence: evidenceAt(course.facts, placeOf(message), when, now),
    }));
    return { message: carrier, fate, riders };
  }

  function fateOf(message: QueuedNudge, course: CourseOfMail, together?: readonly number[]): MessageVerdict {
    const mailing = mailingOf(message.wording);
    if (message.rule === null && mailing !== null) return fateByHand(message, course, course.mailings.get(mailing));
    const row = course.rules.get(message.rule ?? '');
    if (!row) return { kind: 'withdrawn', reason: 'ruleOff' };
    const rule = readableRule(row);
    if (!rule) return { kind: 'broken', trouble: UNREADABLE_RULE };
    const stays = look(message, course, row, rule, now);
    if (stays) return stays;
    const wording = editedWording(course.wordings(message.wording), message.edited);
    if (!wording.ok) return { kind: 'broken', trouble: troubleOf(wording.problems) };
    // A retry, and all messages of one nudge, are made from the text that was chosen first.
    const key = lastKey(message.wording, message.student);
    // A fair trial is about nudges that the student can answer by an act (engine O5).
    const trial = message.kind === 'student' && canReturn(rule.when) ? course.trials.get(message.wording) : undefined;
    const drawn = message.variant === null ? (trial?.textOf(message.student, wording.value.count) ?? null) : null;
    const variant =
      message.variant ??
      drawn?.text ??
      variants.get(message.nudge) ??
      nextVariant(wording.value.count, course.last.get(key) ?? null, message.student);
    const inReplyTo = answered.get(threadKey(message.nudge, message.address)) ?? null;
    const voiced = inVoiceOf(course, row.owner);
    const order = { message, course: voiced, rule, wording: wording.value, variant, inReplyTo, at: now, together };
    const composed = compose(services, order);
    if (!composed.ok) return { kind: 'broken', trouble: troubleOf(composed.problems) };
    if (saysNothing(wordsFor(wording.value.wording, message, variant), voiced.sender.signature))
      return { kind: 'broken', trouble: NOTHING_WRITTEN };
    variants.set(message.nudge, variant);
    course.last.set(key, variant);
    return { kind: 'leaves', composed: composed.value, variant, draw: drawn?.draw ?? null };
  }

  function fateByHand(message: QueuedNudge, course: CourseOfMail, mailing: OpenMailing | undefined): MessageVerdict {
    if (!mailing) return { kind: 'broken', trouble: MAILING_GONE };
    const stays = lookByHand(message, course, mailing.facts, mailing.outside, now);
    if (stays) return stays;
    const wording = editedWording(mailing.wording, message.edited);
    if (!wording.ok) return { kind: 'broken', trouble: troubleOf(wording.problems) };
    const live = { ...inVoiceOf(course, mailing.writer), course: mailing.facts.course, facts: mailing.facts };
    const order = { message, course: live, rule: null, wording: wording.value, variant: 0, inReplyTo: null, at: now };
    const composed = compose(services, order);
    if (!composed.ok) return { kind: 'broken', trouble: troubleOf(composed.problems) };
    return { kind: 'leaves', composed: composed.value, variant: 0, draw: null };
  }
}

/** A message by hand has no rule to look at: its reader must still be there, and the hour open (engine R10). */
function lookByHand(
  message: QueuedNudge,
  course: CourseOfMail,
  facts: Facts,
  outside: readonly string[],
  now: Instant,
): MessageVerdict | null {
  const person = facts.course.people[facts.course.personIndex.get(message.student) ?? -1];
  if (!person?.active) return { kind: 'withdrawn', reason: 'inactive' };
  if (person.paused) return { kind: 'withdrawn', reason: 'paused' };
  if (message.kind === 'student' && !person.email) return { kind: 'withdrawn', reason: 'noAddress' };
  const open = firstOpen(now, course.course.settings.quietHours, course.course);
  if (open >= course.course.calendar.end) return { kind: 'withdrawn', reason: 'courseOver' };
  if (open > now) return { kind: 'waits', until: open };
  if (needsYes(message, domainsOf(course.row.sender)) && !outside.includes(message.address.toLowerCase()))
    return { kind: 'held', heldFor: 'outside' };
  return null;
}

/** A wording with the text that the instructor wrote for one student in place of its own; third parties keep theirs. */
export function editedWording(
  wording: ParseResult<CompiledWording>,
  edited: string | null,
): ParseResult<CompiledWording> {
  const text = edited === null ? null : (JSON.parse(edited) as Variant | null);
  return text === null || !wording.ok ? wording : compiledOf({ ...wording.value.wording, ...text, variants: [] });
}

/** The words that a reader gets, before fields are filled in. */
const wordsFor = (wording: Wording, message: QueuedNudge, variant: number): string =>
  (copyFor(wording, message.reader ?? message.kind) ?? textsOf(wording)[variant] ?? wording).text;

const NOTHING_WRITTEN =
  'The text of this message has nothing between salutation and signature. Write the text, then send it again.';
const MAILING_GONE = 'The text of this message is no longer there. Write it again.';
const CANNOT_BE_MADE = 'This message could not be written. Open its text and its rule, check both, and send it again.';
const UNREADABLE_RULE =
  'The rule behind this message cannot be read. Save the rule again, then send the message again.';
const troubleOf = (problems: readonly { readonly message: string }[]): string =>
  `The text of this message has a problem. ${problems.map((p) => p.message).join('. ')}. Fix the text, then send it again.`;

/** The messages of nudges that were made and are not written yet. */
const madeAhead = (ahead: readonly JudgedMessage[]) =>
  ahead.flatMap(({ message, fate }) =>
    fate.kind === 'leaves' && fate.variant !== null && isOfNudge(message)
      ? [{ nudge: message, variant: fate.variant, draw: fate.draw }]
      : [],
  );

async function courseOfMail(
  em: Em,
  { live }: CourseServices,
  id: number,
  messages: readonly QueuedNudge[],
  ahead: readonly JudgedMessage[],
): Promise<CourseOfMail> {
  const keys = [...new Set(messages.flatMap((m) => m.rule ?? []))];
  const rows = await em.find(RuleRow, { course: id, key: { $in: keys } }, { disableIdentityMap: true });
  const opened = await live.get(em, id);
  const wordings = [...new Set(messages.map((m) => m.wording))];
  const students = [...new Set(messages.map((m) => m.student))];
  const last = await lastVariants(em, id, students);
  const trials = await openTrials(em, id, wordings, students);
  for (const { nudge, variant, draw } of madeAhead(ahead)) {
    last.set(lastKey(nudge.wording, nudge.student), variant);
    if (draw) trials.get(nudge.wording)?.keep(nudge.student, draw);
  }
  const stopsAtReply = rows.some((row) => readableRule(row)?.repeat.untilReply);
  const answers = new NudgeLog([], stopsAtReply ? await answersOf(em, id, students) : []);
  return {
    ...opened,
    answers,
    mailings: await openMailings(em, opened, messages),
    wordings: await loadWordings(em, id, wordings),
    rules: new Map(rows.map((r) => [r.key, r])),
    last,
    trials,
  };
}

/** Why a message does not leave now; null when it does. */
function look(
  message: QueuedNudge,
  course: CourseOfMail,
  row: RuleRow,
  rule: Rule,
  now: Instant,
): MessageVerdict | null {
  const about = { rule, student: message.student, round: message.roundAt, step: message.step };
  const reason = secondLook(about, course.facts, now, message.decidedBy === null ? course.answers : null);
  if (reason) return { kind: 'withdrawn', reason };
  const open = firstOpen(now, course.course.settings.quietHours, course.course);
  if (open >= course.course.calendar.end) return { kind: 'withdrawn', reason: 'courseOver' };
  if (open > now) return { kind: 'waits', until: open };
  if (needsYes(message, domainsOf(course.row.sender)) && !row.outside.includes(message.address.toLowerCase())) {
    return { kind: 'held', heldFor: 'outside' };
  }
  return null;
}
