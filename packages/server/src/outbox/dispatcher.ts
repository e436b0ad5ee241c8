/**
 * Hands queued mail to the mail server. Each message is claimed in a transaction that also takes the second look, renders
 * it and writes the log row; then it is handed over; then the answer is written. A process that dies in between leaves
 * `handing`, which the next one turns into `uncertain`: it is never sent again by itself.
 */
import {
  firstOpen,
  aboutOf,
  domainsOf,
  evidenceAt,
  htmlOf,
  needsYes,
  nextVariant,
  retryDelay,
  secondLook,
  type CompiledWording,
  type DeliveryOutcome,
  type Instant,
  type Message,
  type Parsed,
  type Recipient,
  type WithdrawnReason,
} from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';
import { heldCourses } from '../course/standing.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { settle } from '../nudges/settle.ts';
import { endPauses } from '../pauses/pause.ts';
import { ReplyRow } from '../replies/entity.ts';
import { forwardReplies } from '../replies/forward.ts';
import { CONNECTIONS, type OutgoingMail } from '../platform/mail.ts';
import type { Em } from '../platform/orm.ts';
import type { Services } from '../platform/services.ts';
import { RuleRow } from '../rules/entity.ts';
import { ruleOfRow } from '../rules/repository.ts';
import { AttemptRow } from '../sendLog/entity.ts';
import { filesOf, packed, type Parcel } from '../wording/sending.ts';
import { lastKey, lastVariants, loadWordings } from '../wording/repository.ts';
import { deadWorkers, heartbeat, makeWorkerId } from './worker.ts';
import { inTransaction } from '../platform/transaction.ts';

interface Claimed {
  readonly message: number;
  readonly attempt: number;
  readonly mail: OutgoingMail;
  /** What goes with it is fetched and made after the claim. */
  readonly parcel: Parcel;
  readonly toStudent: boolean;
}

/** What the messages of one claim share, read once. */
interface CourseOfMail extends LiveCourse {
  readonly wordings: (key: string) => Parsed<CompiledWording>;
}

export class Dispatcher {
  readonly id = makeWorkerId();
  private readonly services: Services;
  private running: Promise<void> | null = null;

  constructor(services: Services) {
    this.services = services;
  }

  /** Hands over all that is due now. Calls while one runs share it, and one more pass follows. */
  async drain(): Promise<void> {
    while (this.running) await this.running;
    this.running = this.pass().finally(() => (this.running = null));
    return this.running;
  }

  /** When the next queued message falls due after now, or null. */
  async nextDue(): Promise<Instant | null> {
    const [row] = await this.services.orm.em
      .fork()
      .find(
        MessageRow,
        { state: 'queued', sendAt: { $gt: this.services.clock.now() } },
        { orderBy: { sendAt: 'asc' }, limit: 1 },
      );
    return row?.sendAt ?? null;
  }

  private async pass(): Promise<void> {
    await this.inheritFromTheDead();
    await endPauses(this.services);
    await forwardReplies(this.services, this.id);
    for (;;) {
      const { claimed, more } = await this.claim();
      await Promise.all(claimed.map((c) => this.handOver(c)));
      if (!more) return;
    }
  }

  private async inheritFromTheDead(): Promise<void> {
    const { orm, clock } = this.services;
    await inTransaction(orm, async (em) => {
      await heartbeat(em, this.id);
      const dead = await deadWorkers(em);
      if (dead.size === 0) return;
      // What it was passing on to the instructor may have left or not, like any other mail.
      await em.nativeUpdate(
        ReplyRow,
        { forward: 'handing', claimedBy: { $in: [...dead] } },
        { forward: 'uncertain', claimedBy: null },
      );
      for (const m of await em.find(MessageRow, { state: 'handing', claimedBy: { $in: [...dead] } })) {
        await settle(em, m, 'uncertain', null, clock.now());
        await em.nativeUpdate(
          AttemptRow,
          { message: m.id, outcome: 'handing' },
          { outcome: 'unknown', response: 'The server stopped while this message was on the line.' },
        );
      }
    });
  }

  private claim(): Promise<{ claimed: Claimed[]; more: boolean }> {
    const { orm, clock, live } = this.services;
    return inTransaction(orm, async (em) => {
      await heartbeat(em, this.id);
      const now = clock.now();
      const due = await em.find(
        MessageRow,
        { state: 'queued', sendAt: { $lte: now }, course: { $nin: [...(await heldCourses(em, now))] } },
        { orderBy: { sendAt: 'asc', id: 'asc' }, limit: CONNECTIONS },
      );
      const claimed: Claimed[] = [];
      const courses = new Map<number, CourseOfMail>();
      for (const message of due) {
        let course = courses.get(message.course);
        if (!course) {
          const wordings = await loadWordings(em, message.course);
          course = { ...(await live.get(em, message.course)), wordings };
          courses.set(message.course, course);
        }
        const one = await this.claimOne(em, message, course, now);
        if (one) claimed.push(one);
      }
      await em.flush();
      return { claimed, more: due.length === CONNECTIONS };
    });
  }

  private async claimOne(em: Em, message: MessageRow, course: CourseOfMail, now: Instant): Promise<Claimed | null> {
    const nudge = await em.findOneOrFail(NudgeRow, { id: message.nudge });
    const row = await em.findOne(RuleRow, { course: course.id, key: nudge.rule });
    const rule = row && ruleOfRow(row);
    const withdraw = (reason: WithdrawnReason) => settle(em, message, 'withdrawn', reason, now).then(() => null);
    if (!rule) return withdraw('ruleOff');
    const of = { rule, student: nudge.student, round: nudge.roundAt, step: nudge.step };
    const reason = secondLook(of, course.facts, now);
    if (reason) return withdraw(reason);
    const open = firstOpen(now, course.course.settings.quietHours, course.course);
    if (open >= course.course.calendar.end) return withdraw('courseOver');
    if (open > now) {
      message.sendAt = open;
      return null;
    }
    if (
      needsYes(message as Pick<Recipient, 'kind' | 'address'>, domainsOf(course.row.sender)) &&
      !row.outside.includes(message.address.toLowerCase())
    ) {
      return settle(em, message, 'held', null, now).then(() => null);
    }
    const person = course.course.personIndex.get(nudge.student)!;
    const wording = course.wordings(nudge.wording);
    if (!wording.ok) return this.unrenderable(em, message, wording, now);
    const sender = course.row.sender;
    // A retry, and a third party's copy, get the text that was chosen first.
    message.variant ??= await variantFor(em, message, nudge, wording.value.count);
    const reader = { name: message.name || message.address };
    const seenBy = { facts: course.facts, person, sender, about: aboutOf(rule.when), at: now, reader };
    const toStudent = message.kind === 'student';
    const rendered = wording.value.render(seenBy, message.variant, message.reader ?? message.kind);
    const parcel = { course, wording: wording.value, message: rendered, to: message.name || message.address, at: now };
    const pauseLink = toStudent ? this.services.pauseLink(nudge.id) : null;
    const tagged = sender.answers === 'server' ? this.services.replyAddress(nudge.id) : null;
    const mail: OutgoingMail = {
      from: { name: sender.name, address: sender.address },
      replyTo: tagged ?? sender.replyTo,
      to: { name: message.name, address: message.address },
      subject: rendered.subject,
      ...withPauseLink(rendered, pauseLink),
      messageId: `<${crypto.randomUUID()}@${sender.address.split('@')[1] ?? 'zest-bell'}>`,
      date: new Date(now),
      inReplyTo: await threadOf(em, message, nudge),
      pauseLink,
      envelopeFrom: tagged,
    };
    const attempt = em.create(AttemptRow, {
      course: course.id,
      message: message.id,
      nudge: nudge.id,
      at: now,
      outcome: 'handing',
      response: '',
      messageId: mail.messageId,
      recipientName: mail.to.name,
      address: mail.to.address,
      fromAddress: mail.from.address,
      replyTo: mail.replyTo,
      subject: mail.subject,
      body: mail.text,
      html: mail.html,
      files: filesOf(parcel, toStudent),
      evidence: evidenceAt(course.facts, person, rule.when, now),
    });
    message.claimedBy = this.id;
    message.attempts += 1;
    await settle(em, message, 'handing', null, now);
    await em.flush();
    return { message: message.id, attempt: attempt.id, mail, parcel, toStudent };
  }

  /** A wording that broke after the decision: the nudge fails and says why, instead of waiting for ever. */
  private async unrenderable(
    em: Em,
    message: MessageRow,
    wording: Extract<Parsed<CompiledWording>, { ok: false }>,
    now: Instant,
  ): Promise<null> {
    this.services.logger.error({ message: message.id, problems: wording.problems }, 'wording cannot be rendered');
    await settle(em, message, 'failed', null, now);
    return null;
  }

  private async handOver(c: Claimed): Promise<void> {
    const { orm, clock } = this.services;
    const outcome = await this.sent(c);
    await inTransaction(orm, async (em) => {
      await heartbeat(em, this.id);
      const message = await em.findOneOrFail(MessageRow, { id: c.message });
      const attempt = await em.findOneOrFail(AttemptRow, { id: c.attempt });
      attempt.outcome = outcome.kind;
      attempt.response = outcome.response;
      await this.settleOutcome(em, message, outcome, clock.now());
    });
  }

  /** Nothing was handed over when what goes with it cannot be made: then it fails, and says why. */
  private async sent(c: Claimed): Promise<DeliveryOutcome> {
    const { orm, mail } = this.services;
    let files;
    try {
      files = await packed(orm, c.parcel, c.toStudent);
    } catch (error) {
      this.services.logger.error({ err: error, message: c.message }, 'what goes with a message cannot be made');
      const reason = error instanceof Error ? error.message : 'unknown reason';
      return { kind: 'permanent', response: `What goes with it could not be made: ${reason}` };
    }
    return mail.send({ ...c.mail, files });
  }

  private async settleOutcome(em: Em, message: MessageRow, outcome: DeliveryOutcome, now: Instant): Promise<void> {
    message.claimedBy = null;
    if (outcome.kind !== 'transient') {
      const state = outcome.kind === 'sent' ? 'sent' : outcome.kind === 'permanent' ? 'failed' : 'uncertain';
      return settle(em, message, state, null, now);
    }
    const delay = retryDelay(message.attempts);
    if (delay === null) return settle(em, message, 'failed', null, now);
    message.sendAt = now + delay;
    return settle(em, message, 'queued', null, now);
  }
}

/** The text that is the student's turn; all messages of one nudge are made from the same one. */
async function variantFor(em: Em, message: MessageRow, nudge: NudgeRow, count: number): Promise<number> {
  if (count === 1) return 0;
  const beside = await em.findOne(MessageRow, { nudge: nudge.id, id: { $ne: message.id }, variant: { $ne: null } });
  if (beside?.variant != null) return beside.variant;
  const last = await lastVariants(em, message.course, nudge);
  return nextVariant(count, last.get(lastKey(nudge.wording, nudge.student)) ?? null, nudge.student);
}

/** The last message of the same rule and spell that reached the same address: a later step answers it (RFC 5322 §3.6.4). */
async function threadOf(em: Em, message: MessageRow, nudge: NudgeRow): Promise<string | null> {
  const earlier = await em.find(
    NudgeRow,
    {
      course: nudge.course,
      rule: nudge.rule,
      student: nudge.student,
      spellStart: nudge.spellStart,
      id: { $lt: nudge.id },
    },
    { orderBy: { id: 'desc' } },
  );
  for (const before of earlier) {
    const attempt = await em.findOne(
      AttemptRow,
      { nudge: before.id, address: message.address, outcome: 'sent' },
      { orderBy: { id: 'desc' } },
    );
    if (attempt) return attempt.messageId;
  }
  return null;
}

/** Below the words, and apart from them: not every mail program shows the header. */
function withPauseLink({ text, blocks }: Message, link: string | null): { text: string; html: string } {
  const html = htmlOf(blocks);
  if (link === null) return { text, html };
  const words = 'Why you get this, and how to pause such messages:';
  return {
    text: `${text}\n\n-- \n${words} ${link}`,
    html: `${html}\n<p style="margin-top:2em;font-size:13px;color:#6b7972"><a href="${link}" style="color:#6b7972">Why you get this, and how to pause such messages</a></p>`,
  };
}
