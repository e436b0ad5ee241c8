/** Wordings: the list, the words themselves, and a preview for a student before anything is saved. */
import { inCourse, inCourses } from '../../course/lock.ts';
import { zipSync } from 'fflate';
import { fullName, type Course } from '@zest-bell/core/course';
import { parseCondition } from '@zest-bell/core/conditions';
import type { RecipientSpec, Rule } from '@zest-bell/core/rules';
import {
  ABOUT_NOTHING,
  aboutOf,
  fieldExamples,
  htmlOf,
  textsOf,
  wordingSchema,
  type FieldSubject,
  type CompiledWording,
  type FieldContext,
} from '@zest-bell/core/wording';
import { recipientsOf } from '@zest-bell/core/rounds';
import type {
  FieldExamples,
  MailTestAnswer,
  PreviewAnswer,
  TrialAnswer,
  WordingAnswer,
  WordingResultsAnswer,
} from '@zest-bell/core/exchange';
import { type BodyRead, SENT, contract } from '@zest-bell/core/contract';
import { actorNames, type ActorName } from '../../access/audit.ts';
import type { Door } from '../../access/door.ts';
import { inVoiceOf, type LiveCourse } from '../../course/activity/live.ts';
import { testMail } from '../../course/sender.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { parseInput } from '../../platform/http/http.ts';
import { keepReason } from '../../course/reasons.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleOfRow } from '../../rules/repository.ts';
import { WordingRow, wordingHolds } from '../../wording/entity.ts';
import { awkwardFor } from '../../wording/awkward.ts';
import { compiledOf, insertWording, wordingOfRow } from '../../wording/repository.ts';
import { resultsOf } from '../../mail/trials/results.ts';
import {
  endTrial,
  coursesWithTexts,
  planOf,
  runningTrial,
  startTrial,
  trialAnswer,
  wordingsOnTrial,
} from '../../mail/trials/trial.ts';
import { mustBeOfCourse, mustBeReadable, rulesUsing, runs, storeWording } from './changing.ts';
import { leaveSet } from '../../rules/sets/membership.ts';
import { filesOf, letterOf, packed, type Parcel } from '../../wording/sending.ts';
import { updateRow, removeRows } from '../../platform/database/writing.ts';

export function wordingRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, live, clock, mail, longWork } = services;
  door.on(contract.wording.all, async ({ course: id }) => {
    const em = reading.em.fork();
    const rules = (await em.find(RuleRow, { course: id })).map(ruleOfRow);
    const rows = await em.find(WordingRow, { course: id }, { orderBy: { id: 'asc' } });
    const onTrial = await wordingsOnTrial(em, id);
    const name = await actorNames(
      em,
      rows.map((r) => r.drafted?.by),
    );
    return rows.map((row) => answerOf(row, { rules, onTrial: onTrial.has(row.key), name }));
  });

  /** What came of each; apart from the list, which a composer asks for as well. */
  door.on(contract.wording.results, async ({ course: id }) => {
    const em = reading.em.fork();
    const results = await resultsOf(em, await live.get(em, id), clock.now());
    const rows = await em.find(WordingRow, { course: id });
    const answer = rows.map((r) => [r.key, results(r.key, textsOf(wordingOfRow(r)).length)] as const);
    return Object.fromEntries(answer) satisfies WordingResultsAnswer;
  });

  door.on(contract.wording.make, async ({ course: id, body: { wording: draft } }) => {
    const key = `wording-${crypto.randomUUID().slice(0, 8)}`;
    const given = typeof draft === 'object' && draft !== null ? draft : {};
    const compiled = await readable(id, { ...given, id: key });
    const answer = await inCourse(orm, id, async (em) => {
      await mustBeOfCourse(em, compiled, await live.get(em, id));
      await insertWording(em, id, compiled.wording);
      return answerOf(await wordingRow(em, id, key), { rules: [], onTrial: false });
    });
    return answer;
  });

  const keepWhy = (tx: Tx<'course'>, row: WordingRow, account: number, words: string) =>
    keepReason(tx, { course: row.course, what: 'wording', of: row.key, account, at: clock.now(), words });

  /** From a person who may not run rules, changes of one that a running rule says are kept beside it: it says what it said. */
  door.on(contract.wording.change, async ({ course: id, account, body: input, path, actor, mayDo, mustBeAllowed }) => {
    const compiled = await readable(id, input.wording);
    return inCourse(orm, id, async (em) => {
      const row = await wordingRow(em, id, path.wording, input.version);
      const course = await live.get(em, id);
      if (!mayDo('rules.run') && (await runs(em, id, row.key))) {
        await mustBeOfCourse(em, compiled, course);
        await updateRow(em, wordingHolds, row, {
          drafted: { wording: { ...compiled.wording, id: row.key }, by: actor, at: clock.now() },
        });
      } else {
        await storeWording(em, row, compiled, course, mustBeAllowed);
        await keepWhy(em, row, account, input.why);
      }
      return answerIn(em, row);
    });
  });

  door.on(contract.wording.publish, async ({ course: id, account, body: { version, why }, path, mustBeAllowed }) => {
    const before = (await wordingRow(reading.em.fork(), id, path.wording)).drafted;
    if (!before) throw new AppError('notFound');
    const compiled = await readable(id, before.wording);
    return inCourse(orm, id, async (em) => {
      const row = await wordingRow(em, id, path.wording, version);
      if (JSON.stringify(row.drafted) !== JSON.stringify(before)) throw new AppError('changedMeanwhile');
      await storeWording(em, row, compiled, await live.get(em, id), mustBeAllowed);
      await keepWhy(em, row, account, why);
      return answerIn(em, row);
    });
  });

  door.on(contract.wording.dropDraft, async ({ course: id, path }) => {
    await inCourse(orm, id, async (em) => {
      const row = await wordingRow(em, id, path.wording);
      if (!row.drafted) throw new AppError('notFound');
      await updateRow(em, wordingHolds, row, { drafted: null });
    });
  });

  /** Removed for good, when no rule uses it, archived rules included; what was sent from it is in the log. */
  door.on(contract.wording.remove, async ({ course: id, body: { version }, path }) => {
    await inCourse(orm, id, async (em) => {
      const row = await wordingRow(em, id, path.wording, version);
      const using = await rulesUsing(em, id, row.key);
      if (using.length > 0) {
        throw new AppError(
          'wordingInUse',
          using.map((r) => ({ path: 'wording', code: 'inUse', message: `“${r.name}” uses this wording` })),
        );
      }
      if (await runningTrial(em, id, row.key)) throw new AppError('trialRuns');
      const waiting = await waitingMessages(em, id, row.key);
      if (waiting > 0) {
        throw new AppError('wordingInUse', [
          { path: 'wording', code: 'waiting', message: `Messages that are waiting use this wording: ${waiting}` },
        ]);
      }
      await removeRows(em, wordingHolds, { course: id, id: row.id });
      await leaveSet(em, 'wording', id, [row.key]);
    });
  });

  door.on(contract.wording.trial, async ({ course: id, path, account }) => {
    const em = reading.em.fork();
    const row = await wordingRow(em, id, path.wording);
    const asked = { live, account, now: clock.now(), row };
    return (await trialAnswer(em, asked)) satisfies TrialAnswer;
  });

  door.on(contract.wording.startTrial, async ({ course: id, body: order, path, account }) => {
    const asked = { live, account, now: clock.now() };
    const before = reading.em.fork();
    const plan = await planOf(before, { ...asked, row: await wordingRow(before, id, path.wording) });
    const others = (await coursesWithTexts(before, { ...asked, row: await wordingRow(before, id, path.wording) }))
      .map((c) => c.id)
      .filter((c) => order.courses.includes(c));
    await inCourses(orm, [id, ...others], async (em) => {
      await startTrial(em, { ...asked, row: await wordingRow(em, id, path.wording) }, plan, order);
    });
  });

  door.on(contract.wording.endTrial, async ({ course: id, path }) => {
    await inCourse(orm, id, async (em) => endTrial(em, await wordingRow(em, id, path.wording), clock.now()));
  });

  /** What a preview shows, as a mail to oneself, attachments included. */
  door.on(contract.wording.test, async ({ course: id, body: input, account }) => {
    const parcel = await parcelOf(id, account, input);
    const { message, course } = parcel;
    const words = { text: message.text, html: htmlOf(message.blocks), subject: `Test: ${message.subject}` };
    const files = await packed(orm, parcel, input.reader === 'student');
    const test = await testMail(orm.em.fork(), account, course.sender, words, services);
    return (await mail.send({ ...test, files })) satisfies MailTestAnswer;
  });

  door.on(contract.wording.preview, async ({ course: id, account, body: input }) => {
    const parcel = await parcelOf(id, account, input);
    const files = filesOf(parcel, input.reader === 'student');
    return { student: input.student, message: parcel.message, files } satisfies PreviewAnswer;
  });

  /** What each merge field says of one student. */
  door.on(contract.wording.examples, async ({ course: id, account, body: input }) => {
    const course = inVoiceOf(await live.get(reading.em.fork(), id), account);
    return fieldExamples(contextOf(course, input)) satisfies FieldExamples;
  });

  /** The words read for every student, and those at whom they would break first. */
  door.on(contract.wording.awkward, async ({ course: id, body, account, res }) => {
    const input = body;
    const compiled = compiledOf(parseInput(wordingSchema, input.wording));
    if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
    const course = await live.get(orm.em.fork(), id);
    const order = { ...input, about: aboutOfDraft(input.when), at: clock.now() };
    return await longWork.run(account, res, () => awkwardFor(compiled.value, course, order));
  });

  /** The letters of some students: one as a PDF, several as a ZIP archive of them. */
  door.on(contract.wording.letters, async ({ course: id, account, body: { students, ...input }, res }) => {
    const archive: Record<string, Buffer> = {};
    for (const student of new Set(students)) {
      if (res.destroyed) return SENT;
      const parcel = await parcelOf(id, account, { ...input, student, reader: 'student' });
      const bytes = await letterOf(orm, parcel);
      const name = parcel.message.letterName ?? `Letter to ${parcel.to}`;
      if (students.length === 1) {
        res.attachment(`${name}.pdf`).type('application/pdf').send(bytes);
        return SENT;
      }
      // Two students of one name have a letter each.
      archive[archive[`${name}.pdf`] ? `${name} (${student}).pdf` : `${name}.pdf`] = bytes;
    }
    // PDFs are compressed already.
    res
      .attachment('Letters.zip')
      .type('application/zip')
      .send(Buffer.from(zipSync(archive, { level: 0 })));
    return SENT;
  });

  const readable = async (id: number, draft: unknown): Promise<CompiledWording> => {
    const em = orm.em.fork();
    return mustBeReadable(em, await live.get(em, id), draft, clock.now());
  };

  /** As the person who looks at it would write it. */
  async function parcelOf(
    id: number,
    account: number,
    input: BodyRead<typeof contract.wording.preview>,
  ): Promise<Parcel> {
    const compiled = compiledOf(parseInput(wordingSchema, input.wording));
    if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
    const em = orm.em.fork();
    const course = inVoiceOf(await live.get(em, id), account);
    await mustBeOfCourse(em, compiled.value, course);
    const context = contextOf(course, input);
    const reader = { name: readerName(input.reader, course.course, context.person) };
    const message = compiled.value.render({ ...context, reader }, input.variant, input.reader);
    if (!message.ok) throw new AppError('wordingBroken', message.problems);
    return { course, wording: compiled.value, message: message.value, to: reader.name, at: context.at };
  }

  function contextOf(
    { course, facts, sender }: LiveCourse,
    input: BodyRead<typeof contract.wording.examples>,
  ): FieldContext {
    const person = course.personIndex.get(input.student);
    if (person === undefined) throw new AppError('notFound');
    return { facts, person, sender, about: aboutOfDraft(input.when), at: clock.now() };
  }
}

/** A condition being drafted may not fit yet: then the text is about nothing. */
function aboutOfDraft(when: unknown): FieldSubject {
  const parsed = parseCondition(when);
  return parsed.ok ? aboutOf(parsed.value) : ABOUT_NOTHING;
}

/** Somebody whom the words for a third party would greet. */
function readerName(reader: string, course: Course, person: number): string {
  const student = course.people[person]!;
  if (reader === 'student') return fullName(student);
  const named = /^(instructor|contact:.+|address:.+)$/.test(reader);
  const known = named ? recipientsOf({ to: [reader as RecipientSpec] }, student, course)[0] : undefined;
  return known?.name || known?.address || 'colleague';
}

/** Messages that would still be made from the words, or made again: a third party's may wait when the student's has left. */
async function waitingMessages(em: Em, course: number, wording: string): Promise<number> {
  const query = em
    .getKnex()('message as m')
    .join('nudge as n', 'n.id', 'm.nudge')
    .where({ 'n.course': course, 'n.wording': wording })
    .whereIn('m.state', ['queued', 'held', 'handing', 'uncertain'])
    .count({ n: '*' });
  const [found] = await rowsOf<{ n: number }>(em, query);
  return Number(found!.n);
}

/** Throws `notFound`; with a version, `changedMeanwhile`. */
async function wordingRow(em: Em, course: number, key: string, version?: number): Promise<WordingRow> {
  const row = await em.findOne(WordingRow, { course, key });
  if (!row) throw new AppError('notFound');
  if (version !== undefined && row.version !== version) throw new AppError('changedMeanwhile');
  return row;
}

async function answerIn(em: Em, row: WordingRow): Promise<WordingAnswer> {
  const rules = await rulesUsing(em, row.course, row.key);
  const onTrial = (await runningTrial(em, row.course, row.key)) !== null;
  return answerOf(row, { rules, onTrial, name: await actorNames(em, [row.drafted?.by]) });
}

interface WordingContext {
  readonly rules: readonly Rule[];
  readonly onTrial: boolean;
  readonly name?: ActorName;
}

const answerOf = (row: WordingRow, { rules, onTrial, name }: WordingContext): WordingAnswer => ({
  ...wordingOfRow(row),
  variants: row.variants,
  copies: row.copies,
  files: row.files,
  letter: row.letter ?? null,
  version: row.version,
  usedBy: rules.filter((r) => r.steps.some((s) => s.wording === row.key)).map((r) => r.name),
  onTrial,
  drafted: row.drafted && name ? { wording: row.drafted.wording, by: name(row.drafted.by), at: row.drafted.at } : null,
});
