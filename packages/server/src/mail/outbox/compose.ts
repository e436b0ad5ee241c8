/** One message made from the facts of this moment, and the row that the log keeps of it. */
import type { ParseResult } from '@zest-bell/core/problem';
import type { Instant } from '@zest-bell/core/time';
import { mailFrom } from '@zest-bell/core/course';
import { evidenceAt, type LeafEvidence } from '@zest-bell/core/conditions';
import { isAlert, type Rule } from '@zest-bell/core/rules';
import { ABOUT_NOTHING, aboutOf, htmlOf, type CompiledWording, type Message } from '@zest-bell/core/wording';
import type { LiveCourse } from '../../course/activity/live.ts';
import { newMessageId, type OutgoingMail } from '../../platform/mail/mail.ts';
import type { CourseServices } from '../../course/services.ts';
import type { Parcel } from '../../wording/sending.ts';
import type { QueuedNudge } from './queue.ts';

export interface ComposedMail {
  readonly mail: OutgoingMail;
  /** What the attachments are made from, after the claim; null for a message without attachments. */
  readonly parcel: Parcel | null;
  readonly evidence: readonly LeafEvidence[];
}

export interface MessageToMake {
  readonly message: QueuedNudge;
  /** In the voice of the writer. */
  readonly course: LiveCourse;
  /** Null for a message by hand. */
  readonly rule: Rule | null;
  readonly wording: CompiledWording;
  readonly variant: number;
  /** The Message-ID that it answers, or null. */
  readonly inReplyTo: string | null;
  readonly at: Instant;
  /** The students of all its bundle, by their place in the roster (engine R11a). */
  readonly together?: readonly number[] | undefined;
}

/** The problems of a text that cannot be made of this student's values come out; nothing is thrown. */
export function compose(services: CourseServices, order: MessageToMake): ParseResult<ComposedMail> {
  const { message, course, rule, wording, variant, at } = order;
  const { sender } = course;
  const from = mailFrom(sender, services.installationSender());
  const person = course.course.personIndex.get(message.student)!;
  const to = message.name || message.address;
  const seenBy = {
    facts: course.facts,
    person,
    sender,
    about: rule ? aboutOf(rule.when) : ABOUT_NOTHING,
    at,
    reader: { name: to },
    together: order.together,
    alert: rule !== null && isAlert(rule.steps[message.step] ?? rule.steps[0]!),
  };
  const made = wording.render(seenBy, variant, message.reader ?? message.kind);
  if (!made.ok) return made;
  const rendered = made.value;
  const pauseLink = message.kind === 'student' ? services.pauseLink(message.nudge) : null;
  const tagged =
    sender.answers === 'server'
      ? services.replyAddress({ nudge: message.nudge, message: message.kind === 'student' ? null : message.id })
      : null;
  const composed: ComposedMail = {
    mail: {
      from,
      replyTo: tagged ?? sender.replyTo,
      to: { name: message.name, address: message.address },
      subject: rendered.subject,
      ...withPauseLink(rendered, pauseLink),
      messageId: newMessageId(from),
      date: new Date(at),
      inReplyTo: order.inReplyTo,
      pauseLink,
      envelopeFrom: tagged,
    },
    parcel: { course, wording, message: rendered, to, at },
    evidence: rule ? evidenceAt(course.facts, person, rule.when, at) : [],
  };
  return { ok: true, value: composed };
}

/** Below the words, and apart from them: not every mail program shows the header. */
function withPauseLink({ text, blocks }: Message, link: string | null): { text: string; html: string } {
  const html = htmlOf(blocks);
  if (link === null) return { text, html };
  const words = 'Answer with one press, see why you get this, or pause such messages';
  return {
    text: `${text}\n\n-- \n${words}: ${link}`,
    html: `${html}\n<p style="margin-top:2em;font-size:13px;color:#6b7972"><a href="${link}" style="color:#6b7972">${words}</a></p>`,
  };
}
