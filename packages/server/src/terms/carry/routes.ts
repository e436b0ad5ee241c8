/** Carrying over from another course of one’s own: looked at first, then done, gone through, and taken back. */
import { contract } from '@zest-bell/core/contract';
import type { CarryChoices } from '@zest-bell/core/carry';
import type { Door } from '../../access/door.ts';
import { idOf } from '../../access/pathIds.ts';
import { inCourse, inCourses } from '../../course/lock.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { isOwnSender } from './ownSender.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { checklistOf, isDone } from './checklist.ts';
import { carryAlong } from './carryInto.ts';
import express from 'express';
import { keepRulesFile, readRulesFile, rulesFilesOf } from './uploadedSource.ts';
import { CarryRow, type CarryChecklist, carryHolds } from '../../rules/carried.ts';
import { bothSides, previewOf } from './proposal.ts';
import type { Side } from './sides.ts';
import { linkCarried } from './sets.ts';
import { undoCarry } from './undoCarry.ts';
import { updateRow } from '../../platform/database/writing.ts';

/** Bytes of a file of rules, with what goes along. */
const LARGEST = 25_000_000;

export function carryRoutes(door: Door, { orm, reading, live, clock }: IntakeServices): void {
  door.on(
    contract.carry.bring,
    async ({ course, query: { name }, req }) => {
      const document = readRulesFile(req.body);
      return inCourse(orm, course, (tx) => keepRulesFile(tx, course, name, document, clock.now()));
    },
    { reader: express.raw({ type: () => true, limit: LARGEST }) },
  );

  door.on(contract.carry.files, ({ course }) => rulesFilesOf(reading.em.fork(), course));

  door.on(contract.carry.preview, async ({ course, account, body: { from, sender: _sender, ...choices } }) => {
    const em = reading.em.fork();
    const { source, target } = await bothSides(em, live, { account, course, from });
    mayBringItems(target, choices);
    return previewOf(source, target, choices, await isOwnSender(em, account, source, target));
  });

  door.on(contract.carry.over, async ({ course, account, actor, body: { from, sender, ...choices } }) => {
    // Rules that come along share a set with the source course, so rows of both courses are written; a file has no course.
    const courses = typeof from === 'number' ? [course, from] : [course];
    return inCourses(orm, courses, async (em, of) => {
      const row = of(course);
      const { source, target } = await bothSides(em, live, { account, course, from });
      mayBringItems(target, choices);
      const by = { account, actor };
      const order = { choices, sender, by, now: clock.now() };
      const { carried, over } = await carryAlong(em, row, source, target, order);
      await linkCarried(em, source, target, over, order);
      return checklistOf(em, carried, await live.get(em, course));
    });
  });

  door.on(contract.carry.lists, async ({ course }) => {
    const em = reading.em.fork();
    const rows = await em.find(
      CarryRow,
      { course, dismissedAt: null, undoneAt: null },
      { orderBy: { id: 'desc' }, disableIdentityMap: true },
    );
    if (rows.length === 0) return [];
    const known = await live.get(em, course);
    const lists = [];
    for (const row of rows) lists.push(await checklistOf(em, row, known));
    return lists.filter((list) => !isDone(list));
  });

  door.on(contract.carry.tick, async ({ course, path, body: { kind, name, done } }) =>
    inCourse(orm, course, async (em) => {
      const row = await carryRow(em, course, path.carry);
      await updateRow(em, carryHolds, row, { ticked: ticked(row.ticked, kind, name, done) });
      return checklistOf(em, row, await live.get(em, course));
    }),
  );

  door.on(contract.carry.dismiss, async ({ course, path }) => {
    await inCourse(orm, course, async (em) => {
      const row = await carryRow(em, course, path.carry);
      await updateRow(em, carryHolds, row, { dismissedAt: clock.now() });
    });
  });

  door.on(contract.carry.undo, async ({ course, path, actor: by, body: { changedToo } }) =>
    inCourse(orm, course, async (em, courseRow) => {
      const row = await carryRow(em, course, path.carry);
      return undoCarry(em, row, courseRow, await live.get(em, course), { changedToo, by, now: clock.now() });
    }),
  );
}

function mayBringItems({ decided }: Side, { withItems }: Pick<CarryChoices, 'withItems'>): void {
  if (!withItems || decided.course.items.length === 0) return;
  const message = 'Items come along only into a course that has none';
  throw new AppError('invalidInput', [{ path: 'withItems', code: 'hasItems', message }]);
}

async function carryRow(em: Em, course: number, id: string): Promise<CarryRow> {
  const row = await em.findOne(CarryRow, { course, id: idOf(id), undoneAt: null });
  if (!row) throw new AppError('notFound');
  return row;
}

const LISTS = { rule: 'rules', wording: 'wordings', setting: 'settings' } as const;

function ticked(
  before: CarryChecklist,
  kind: 'sender' | keyof typeof LISTS,
  name: string,
  done: boolean,
): CarryChecklist {
  if (kind === 'sender') return { ...before, sender: done };
  const list = LISTS[kind];
  const others = (before[list] ?? []).filter((n) => n !== name);
  return { ...before, [list]: done ? [...others, name] : others };
}
