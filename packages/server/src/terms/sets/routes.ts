/** One rule or wording for several courses: what it is in each, used in others, changed in them too. A course that fails stops no other. */
import { contract } from '@zest-bell/core/contract';
import type { SetOutcome } from '@zest-bell/core/exchange';
import { compareParts } from '@zest-bell/core/sets';
import type { Door } from '../../access/door.ts';
import { inCourse, inCourses } from '../../course/lock.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { candidatesFor, isKind, ownCopy, setAnswer, setCards, worksIn } from './answers.ts';
import { partsOf, storedOf } from '../../rules/sets/document.ts';
import { leaveSet, nextVersion, storeMatches, type CopyName } from '../../rules/sets/membership.ts';
import { SetReading } from './reading.ts';
import { applySetChange, type SetChangeToTake } from './taking.ts';
import { useThere } from './using.ts';
import { updateRow } from '../../platform/database/writing.ts';
import { setMemberHolds } from '../../rules/sets/entity.ts';

export function setRoutes(door: Door, { orm, reading: readOnly, live, clock, logger }: IntakeServices): void {
  const reader = (account: number) => new SetReading(readOnly.em.fork(), live, account);

  door.on(contract.sets.all, ({ course, account }) => setCards(reader(account), course));

  door.on(contract.sets.look, ({ course, account, path, body: { picks } }) =>
    setAnswer(reader(account), copyName(course, path), picks, clock.now()),
  );

  door.on(contract.sets.candidates, ({ course, account, path }) =>
    candidatesFor(reader(account), copyName(course, path), clock.now()),
  );

  door.on(contract.sets.use, async ({ course, account, actor, path, body: { courses } }) => {
    const from = copyName(course, path);
    const by = { account, actor };
    return each(account, courses, ({ course: other, join }) =>
      inCourses(orm, [course, other], (tx, of) => useThere(tx, live, of(other), { from, join, by, now: clock.now() })),
    );
  });

  door.on(contract.sets.match, async ({ course, account, body: { other, told } }) => {
    if (other === course || !(await worksIn(reader(account), account, other))) throw new AppError('notFound');
    await inCourse(orm, course, (tx) => storeMatches(tx, course, other, told));
  });

  door.on(contract.sets.take, async ({ course, account, actor: by, path, body: { courses } }) => {
    const name = copyName(course, path);
    const to = await inCourse(orm, course, async (tx) => {
      const reading = new SetReading(tx, live, account);
      const { set, own } = await ownCopy(reading, name);
      // What waits here is decided here first.
      if (own.member.pending) throw new AppError('changedMeanwhile');
      const latest = await reading.inTerms(await reading.version(set, set.version), own.live);
      const isNew = compareParts({}, partsOf(latest.document), partsOf(own.document)).length > 0;
      if (!isNew) return set.version;
      const document = storedOf(own.document, own.live.course);
      const from = await nextVersion(tx, set, course, { document, by, now: clock.now() });
      await updateRow(tx, setMemberHolds, own.member, { from });
      return from;
    });
    return each(account, courses, ({ course: other, ...how }) =>
      takeAt(account, name, other, { ...how, to, account, by, now: clock.now() }),
    );
  });

  door.on(contract.sets.settle, async ({ course, account, actor: by, path, body }) => {
    const name = copyName(course, path);
    const { take, ...how } = body;
    const [outcome] = await each(account, [{ course }], async () =>
      inCourses(orm, [...(await coursesOf(account, name)), course], async (tx) => {
        const reading = new SetReading(tx, live, account);
        const { set, own } = await ownCopy(reading, name);
        const { pending = null } = own.member;
        if (!pending) throw new AppError('changedMeanwhile');
        if (!take) {
          return updateRow(tx, setMemberHolds, own.member, { pending: null });
        }
        const taking = { ...how, to: pending.to, confirm: true, account, by, now: clock.now() };
        return applySetChange(tx, live, reading, set, own, taking);
      }),
    );
    return outcome!;
  });

  door.on(contract.sets.leave, async ({ course, path }) => {
    const { kind, key } = copyName(course, path);
    await inCourse(orm, course, (tx) => leaveSet(tx, kind, course, [key]));
  });

  /** The courses that have a copy: taking a version may name wordings of any of them. */
  const coursesOf = async (account: number, name: CopyName): Promise<number[]> =>
    (await ownCopy(reader(account), name)).copies.map((copy) => copy.live.id);

  const takeAt = async (account: number, name: CopyName, other: number, how: SetChangeToTake) =>
    inCourses(orm, [...(await coursesOf(account, name)), other], async (tx) => {
      const reading = new SetReading(tx, live, account);
      const { set, copies } = await ownCopy(reading, name);
      const copy = copies.find((c) => c.live.id === other);
      if (!copy || other === name.course) throw new AppError('notFound');
      return applySetChange(tx, live, reading, set, copy, how);
    });

  /** Each course on its own; what goes wrong in one is said of it. */
  async function each<T extends { readonly course: number }>(
    account: number,
    courses: readonly T[],
    work: (of: T) => Promise<void>,
  ): Promise<SetOutcome[]> {
    const outcomes: SetOutcome[] = [];
    for (const of of courses) {
      const reading = reader(account);
      const isOwn = await worksIn(reading, account, of.course);
      const code = isOwn ? (await reading.course(of.course)).course.code : '';
      try {
        if (!isOwn) throw new AppError('notFound');
        await work(of);
        outcomes.push({ course: of.course, code, problem: null });
      } catch (error) {
        outcomes.push({ course: of.course, code, problem: problemOf(error) });
        if (!(error instanceof AppError)) logger.error({ err: error, course: of.course }, 'a set failed in one course');
      }
    }
    return outcomes;
  }
}

function problemOf(error: unknown): SetOutcome['problem'] {
  if (!(error instanceof AppError))
    return {
      code: 'internal',
      words: 'Something went wrong in this course. Nothing was changed there.',
      addresses: [],
    };
  const addresses = error.problems.flatMap((p) => /to (\S+), outside/.exec(p.message)?.[1] ?? []);
  const words = [error.message, ...error.problems.map((p) => `${p.message}.`)].join(' ').replace(/\.\./g, '.');
  return { code: error.code, words, addresses: error.code === 'outsideAddresses' ? addresses : [] };
}

function copyName(course: number, path: { readonly kind: string; readonly key: string }): CopyName {
  if (!isKind(path.kind)) throw new AppError('notFound');
  return { kind: path.kind, course, key: path.key };
}
