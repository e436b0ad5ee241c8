/** Direct messages: to students, or from a sheet with columns that are fields in the text. Previewed for each recipient, then sent. */

import { inCourse } from '../../course/lock.ts';
import { plural, type WorkInParts } from '@zest-bell/core/time';
import { nameIn } from '@zest-bell/core/course';
import type { RecipientSpec } from '@zest-bell/core/rules';
import {
  ABOUT_NOTHING,
  fieldTitle,
  saysNothing,
  wordingSchema,
  type CompiledWording,
  type Wording,
} from '@zest-bell/core/wording';
import { decideByHand, NudgeLog } from '@zest-bell/core/rounds';
import { readersOf, type MailingRows, type WritePreview, type WrittenAnswer } from '@zest-bell/core/imports';
import { type BodyRead, type WriteToRead, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { inVoiceOf, type LiveCourse } from '../../course/activity/live.ts';
import { factsOfMailing } from '../../mail/byHand/open.ts';
import { needsConfirmation, write } from '../../mail/byHand/send.ts';
import { loggedNudges } from '../../mail/nudges/log.ts';
import type { MailHandOver } from '../../mail/outbox/handsOver.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { beginSending, holdMessages, leave, sendingAnswer } from '../../mail/sendings/sendings.ts';
import type { SendingRow } from '../../mail/sendings/entity.ts';
import { filesOf } from '../../wording/sending.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { compiledOf, missingNames } from '../../wording/repository.ts';
import { sheetOf, sheetRoutes } from './sheets.ts';
import { updateRow } from '../../platform/database/writing.ts';
import { sheetHolds } from '../../mail/byHand/entity.ts';

/** Readers with an outcome that a screen shows. */
const MOST_LINES = 500;

type WriteRequest = BodyRead<typeof contract.mail.write>;
type WritePreviewRequest = BodyRead<typeof contract.mail.previewWriting>;

export function mailingRoutes(door: Door, services: IntakeServices, dispatcher: MailHandOver): void {
  const { orm, reading, live, clock, longWork } = services;
  sheetRoutes(door, services);

  door.on(contract.mail.previewWriting, async ({ course: id, body: order, account, res }) => {
    const em = reading.em.fork();
    const opened = inVoiceOf(await live.get(em, id), account);
    const found = await readersFor(em, opened, order.to);
    const log = new NudgeLog(await loggedNudges(em, id, [], { students: Object.keys(found.rows) }));
    // What is not typed yet is no reason to show nothing.
    const wording = textOf({ ...order, subject: order.subject.trim() || '…', text: order.text.trim() || '…' });
    const compiled = compiledOf(wording);
    const problems = compiled.ok ? await missingNames(em, compiled.value, opened) : compiled.problems;
    return await longWork.run(account, res, () =>
      looked(opened, found, { order, log, text: compiled.ok ? compiled.value : null, problems, now: clock.now() }),
    );
  });

  door.on(contract.mail.write, async ({ course: id, body: order, account, actor: by }) => {
    const wording = textOf(order);
    const compiled = compiledOf(wording);
    if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
    let began: SendingRow | null = null;
    const answer = await inCourse(orm, id, async (em): Promise<WrittenAnswer> => {
      const opened = inVoiceOf(await live.get(em, id), account);
      const problems = await missingNames(em, compiled.value, opened);
      if (problems.length > 0) throw new AppError('wordingBroken', problems);
      const found = await readersFor(em, opened, order.to);
      if (saysNothing(order.text, opened.sender.signature)) throw new AppError('nothingWritten', [NOTHING_WRITTEN]);
      // A student for whom the text cannot be made is left out, and nobody else.
      const rows = readable(opened, found.rows, compiled.value, order.withBlanks, clock.now());
      const { passBudget, notBefore, outside, confirmed } = order;
      const { mailing, nudges, decided } = await write(em, opened, {
        wording,
        rows,
        passBudget,
        notBefore,
        outside,
        confirmed,
        by,
        to: recipientsIn(order.to),
        sheet: order.to.sheet,
        now: clock.now(),
      });
      if (order.to.sheet !== null) {
        const sheet = await sheetOf(em, id, order.to.sheet);
        const sent = found.rowOf.flatMap(([key, row]) =>
          nudges.has(key) ? [[String(row), nudges.get(key)!] as const] : [],
        );
        await updateRow(em, sheetHolds, sheet, { nudges: { ...sheet.nudges, ...Object.fromEntries(sent) } });
      }
      const sent = decided.filter((d) => d.decision.outcome === 'sent').length;
      began = await beginSending(em, {
        account,
        course: id,
        kind: 'write',
        words: plural(sent, 'message'),
        now: clock.now(),
        takeBack: { mailing, sheet: order.to.sheet },
      });
      await holdMessages(em, began, { nudge: [...nudges.values()] });
      const notSent = order.to.rows.length + order.to.students.length - sent;
      return { mailing, sent, notSent, sending: began && sendingAnswer(began) };
    });
    await leave(services, dispatcher, began);
    return answer;
  });
}

const NOTHING_WRITTEN = {
  path: 'text',
  code: 'nothingWritten',
  message: 'You have not written anything yet. Type your message between the salutation and the signature',
};

/** A message by hand as a wording of its own. */
const textOf = ({
  subject,
  text,
  files,
  letter,
}: Pick<WriteRequest, 'subject' | 'text' | 'files' | 'letter'>): Wording =>
  wordingSchema.parse({
    id: 'by-hand',
    name: subject.slice(0, 80) || 'By hand',
    purpose: 'support',
    subject,
    text,
    files,
    letter,
  });

interface Readers {
  readonly rows: MailingRows;
  /** The row of each reader. */
  readonly rowOf: readonly (readonly [string, number])[];
  /** Rows that name nobody, or somebody whom an earlier row names already. */
  readonly left: readonly {
    readonly row: number;
    readonly name: string;
    readonly reason: 'nobody' | 'sameReader';
    readonly why: string;
  }[];
}

/** Whom an order names. Addresses in columns of a sheet become contacts of a kind that is named for the column. */
async function readersFor(em: Em, live: LiveCourse, to: WriteToRead): Promise<Readers> {
  const rows: Record<
    string,
    { values: Record<string, string>; guest: MailingRows[string]['guest']; copies?: Record<string, string> }
  > = {};
  const rowOf: (readonly [string, number])[] = [];
  const left: Readers['left'][number][] = [];
  for (const id of to.students) if (live.course.personIndex.has(id)) rows[id] = { values: {}, guest: null };
  if (to.sheet !== null) {
    const sheet = await sheetOf(em, live.id, to.sheet);
    const readers = readersOf(sheet.headers, sheet.rows, live.course);
    for (const row of new Set(to.rows)) {
      const [reader, cells] = [readers[row], sheet.rows[row]];
      if (!reader || !cells) continue;
      if (reader.kind === 'nobody') {
        left.push({ row, name: cells.find(Boolean) ?? '', reason: 'nobody', why: reader.why });
        continue;
      }
      const key = reader.kind === 'person' ? reader.id : reader.guest.email.toLowerCase();
      if (Object.hasOwn(rows, key)) {
        left.push({ row, name: key, reason: 'sameReader', why: 'Another row is about the same person' });
        continue;
      }
      const values = Object.fromEntries(sheet.headers.map((h, i) => [h, cells[i] ?? '']));
      rows[key] = { values, guest: reader.kind === 'guest' ? reader.guest : null };
      rowOf.push([key, row]);
    }
  }
  return { rows, rowOf, left };
}

const recipientsIn = (to: WriteToRead): RecipientSpec[] => [
  ...(to.student ? (['student'] as const) : []),
  ...to.contacts.map((kind) => `contact:${kind}` as const),
  ...to.columns.map((column) => `contact:${column}` as const),
];

/** The rows of which the text can be made, without an empty field but for those who get it all the same. */
function readable(
  live: LiveCourse,
  rows: MailingRows,
  text: CompiledWording,
  withBlanks: readonly string[],
  now: number,
): MailingRows {
  const facts = factsOfMailing(live, rows);
  const { sender } = live;
  return Object.fromEntries(
    Object.entries(rows).filter(([key]) => {
      const person = facts.course.personIndex.get(key);
      if (person === undefined) return false;
      const made = text.render({ facts, person, sender, about: ABOUT_NOTHING, at: now });
      return made.ok && (made.value.blanks.length === 0 || withBlanks.includes(key));
    }),
  );
}

interface PreviewContext {
  readonly order: WritePreviewRequest;
  readonly log: NudgeLog;
  readonly text: CompiledWording | null;
  readonly problems: WritePreview['problems'];
  readonly now: number;
}

/** What becomes of a message to each reader, and the message of one of them. */
function* looked(
  live: LiveCourse,
  found: Readers,
  { order, log, text, problems, now }: PreviewContext,
): WorkInParts<WritePreview> {
  const facts = factsOfMailing(live, found.rows);
  const { sender } = live;
  const to = recipientsIn(order.to);
  const c = { course: facts.course, log, to, passBudget: order.passBudget, notBefore: order.notBefore ?? now, now };
  const lines: WritePreview['lines'][number][] = [];
  let message: WritePreview['message'] = null;
  let readers: string[] = [];
  let files: string[] = [];
  let name = '';
  const withBlanks: WritePreview['blanks'][number][] = [];
  const addresses: Record<string, number> = {};
  for (const [i, key] of Object.keys(found.rows).entries()) {
    if (i % 50 === 49) yield;
    const place = facts.course.personIndex.get(key)!;
    const person = facts.course.people[place]!;
    const decision = decideByHand(person, c);
    const made = text?.render({
      facts,
      person: place,
      sender,
      about: ABOUT_NOTHING,
      at: decision.outcome === 'sent' ? decision.sendAt : now,
    });
    if (i === order.at && made?.ok) {
      const { subject, text: plain, blocks } = made.value;
      message = { subject, text: plain, blocks };
      readers = decision.outcome === 'sent' ? decision.to.map((r) => r.address) : [];
      files = filesOf({ wording: text!, message: made.value }, to.includes('student'));
      name = nameIn(facts.course, key);
    }
    const broken = made?.ok === false;
    const blanks = made?.ok ? made.value.blanks : [];
    const who = nameIn(facts.course, key) || key;
    if (decision.outcome === 'sent' && blanks.length > 0)
      withBlanks.push({ key, name: who, fields: blanks.map(fieldTitle) });
    const leftOut = decision.outcome === 'sent' && blanks.length > 0 && !order.withBlanks.includes(key);
    const reason = decision.outcome === 'withheld' ? decision.reason : leftOut ? 'blanks' : null;
    if (decision.outcome === 'sent' && !leftOut && !broken)
      for (const { reader } of decision.to) addresses[reader] = (addresses[reader] ?? 0) + 1;
    lines.push({
      key,
      name: who,
      outcome: broken ? 'broken' : leftOut ? 'withheld' : decision.outcome,
      reason: broken ? 'text' : reason,
      why: broken ? (made.problems[0]?.message ?? null) : null,
      blanks,
      sendAt: decision.outcome === 'sent' ? decision.sendAt : null,
    });
  }
  const left = found.left.map((l) => ({
    key: `row ${l.row}`,
    name: l.name,
    outcome: 'withheld' as const,
    reason: l.reason,
    why: l.why,
    blanks: [],
    sendAt: null,
  }));
  const sent = lines.filter((l) => l.outcome === 'sent');
  return {
    message,
    readers,
    files,
    name,
    problems,
    total: lines.length + left.length,
    sending: sent.length,
    addresses,
    saysNothing: saysNothing(order.text, sender.signature),
    asks: needsConfirmation(live, sent.length),
    blanks: withBlanks.slice(0, MOST_LINES),
    lines: [...lines, ...left].slice(0, MOST_LINES),
  };
}
