/** The full messages of the log: what was handed over, with exactly its words, and what came back. */
import { Zip, ZipDeflate } from 'fflate';
import { fileNameOf, mboxEntry } from '@zest-bell/core/exports';
import type { LogLine } from '@zest-bell/core/exchange';
import { formatInstant, type Instant } from '@zest-bell/core/time';
import type { LiveCourse } from '../../course/activity/live.ts';
import { sentNudges } from '../../mail/nudges/returns.ts';
import { MessageRow } from '../../mail/nudges/entity.ts';
import { AttemptRow } from '../../mail/nudges/attempt.ts';
import { withoutPauseLink } from '../../mail/log/detail.ts';
import { ReplyRow } from '../../mail/replies/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { rawMail, type MailFile } from '../../platform/mail/mail.ts';
import { packedAgain } from '../../wording/sending.ts';
import { grouped } from '@zest-bell/core/course';
import { FileRow } from '../../wording/files/entity.ts';
import type { Progress } from './jobs.ts';
import { writeFile, type PieceWriter } from './writing.ts';

type Batches = AsyncIterable<readonly LogLine[]>;

/** A JSON object a line (JSON Lines): a nudge with its messages, each attempt and each answer. Instants have their offset. */
export const writeJsonLines = (
  em: Em,
  to: Progress,
  { live, now }: { readonly live: LiveCourse; readonly now: Instant },
  batches: Batches,
): Promise<void> =>
  writeFile(to, async (out) => {
    const at = (t: number) => formatInstant(t, live.course.timeZone);
    for await (const lines of batches) {
      const nudges = lines.map((l) => l.nudge);
      const order = { orderBy: { id: 'asc' }, disableIdentityMap: true } as const;
      const messages = grouped(await em.find(MessageRow, { nudge: { $in: nudges } }, order), (m) => String(m.nudge));
      const attempts = grouped(await em.find(AttemptRow, { nudge: { $in: nudges } }, order), (a) => String(a.message));
      const replies = grouped(await em.find(ReplyRow, { nudge: { $in: nudges } }, order), (r) => String(r.nudge));
      const back = new Map((await sentNudges(em, live, now, { nudges })).map((n) => [n.nudge, n.returned]));
      for (const l of lines) {
        const returned = back.get(l.nudge);
        const object = {
          nudge: l.nudge,
          at: at(l.at),
          round: at(l.roundAt),
          state: l.state,
          reason: l.reason,
          student: { id: l.student, name: l.studentName },
          rule: l.rule === null ? null : { id: l.rule, name: l.ruleName },
          step: l.step + 1,
          subject: l.subject,
          cameBackAt: returned ? at(returned.at) : null,
          messages: (messages.get(String(l.nudge)) ?? []).map((m) => ({
            to: { name: m.name, address: m.address, kind: m.kind },
            state: m.state,
            attempts: (attempts.get(String(m.id)) ?? []).map((a) => ({
              at: at(a.at),
              outcome: a.outcome,
              response: a.response,
              messageId: a.messageId,
              from: a.fromAddress,
              replyTo: a.replyTo,
              subject: a.subject,
              text: withoutPauseLink(a.body),
              html: withoutPauseLink(a.html),
              files: a.files,
            })),
          })),
          replies: (replies.get(String(l.nudge)) ?? []).map((r) => ({
            at: at(r.at),
            kind: r.kind,
            from: r.fromAddress,
            subject: r.subject,
            text: r.text,
          })),
        };
        await out.write(`${JSON.stringify(object)}\n`);
      }
      to.done(lines.length);
    }
  });

/** Mails that were accepted, one after the other in a mail folder (RFC 4155, mboxrd). */
export const writeMbox = (em: Em, to: Progress, course: number, batches: Batches): Promise<void> =>
  writeFile(to, async (out) => {
    for await (const { attempt, raw } of sentMails(em, to, course, batches))
      await out.write(mboxEntry(raw.toString('utf8'), attempt.fromAddress, attempt.at));
  });

/** The same as files of their own (RFC 5322), in a ZIP archive. */
export const writeMailFiles = (em: Em, to: Progress, course: number, batches: Batches): Promise<void> =>
  writeFile(to, async (out) => {
    const zip = new ZipWriter(out);
    const names = new Set<string>();
    for await (const { attempt, raw } of sentMails(em, to, course, batches)) {
      const day = new Date(attempt.at).toISOString().slice(0, 10);
      const name = fileNameOf(`${day} ${attempt.recipientName || attempt.address} ${attempt.subject}`);
      const free = names.has(name) ? `${name} (${attempt.id})` : name;
      names.add(free);
      await zip.add(`${free}.eml`, raw);
    }
    await zip.end();
  });

/** An archive that is written as its files come. */
class ZipWriter {
  private readonly zip: Zip;
  private readonly out: PieceWriter;
  private pieces: Uint8Array[] = [];

  constructor(out: PieceWriter) {
    this.out = out;
    this.zip = new Zip((error, piece) => {
      if (error) throw error;
      this.pieces.push(piece);
    });
  }

  async add(name: string, bytes: Uint8Array): Promise<void> {
    const file = new ZipDeflate(name, { level: 6 });
    this.zip.add(file);
    file.push(bytes, true);
    await this.flush();
  }

  async end(): Promise<void> {
    this.zip.end();
    await this.flush();
  }

  private async flush(): Promise<void> {
    const { pieces } = this;
    this.pieces = [];
    for (const piece of pieces) await this.out.write(piece);
  }
}

async function* sentMails(
  em: Em,
  to: Progress,
  course: number,
  batches: Batches,
): AsyncGenerator<{ readonly attempt: AttemptRow; readonly raw: Buffer }> {
  for await (const lines of batches) {
    const attempts = await em.find(
      AttemptRow,
      { nudge: { $in: lines.map((l) => l.nudge) }, outcome: 'sent' },
      { orderBy: { id: 'asc' }, disableIdentityMap: true },
    );
    // One mail that goes to several nudges of a bundle is one mail.
    const seen = new Set<string>();
    for (const attempt of attempts) {
      if (seen.has(attempt.messageId)) continue;
      seen.add(attempt.messageId);
      yield { attempt, raw: await mailOf(em, course, attempt) };
    }
    to.done(lines.length);
  }
}

/** As it left, but for the link with which the student pauses: that works without a sign-in and is theirs alone. */
async function mailOf(em: Em, course: number, attempt: AttemptRow): Promise<Buffer> {
  const with_ = attempt.sentWith ?? null;
  const { files, gone } = with_
    ? await packedAgain(em, course, with_, attempt.at)
    : await filesByName(em, course, attempt.files);
  const note = gone.length === 0 ? '' : `\n\n[No longer there: ${gone.join('; ')}]`;
  return rawMail({
    from: { name: with_?.from ?? '', address: attempt.fromAddress },
    to: { name: attempt.recipientName, address: attempt.address },
    replyTo: attempt.replyTo,
    subject: attempt.subject,
    messageId: attempt.messageId,
    text: withoutPauseLink(attempt.body) + note,
    html: withoutPauseLink(attempt.html),
    date: new Date(attempt.at),
    inReplyTo: with_?.inReplyTo ?? null,
    pauseLink: null,
    files,
    envelopeFrom: null,
  });
}

/** Of before it was kept which files went along: those of the same name. */
async function filesByName(em: Em, course: number, names: readonly string[]) {
  const files: MailFile[] = [];
  const gone: string[] = [];
  for (const name of names) {
    const row = await em.findOne(FileRow, { course, name }, { disableIdentityMap: true });
    if (row) files.push({ name, type: row.type, bytes: Buffer.from(row.bytes), shownAs: null });
    else gone.push(name);
  }
  return { files, gone };
}
