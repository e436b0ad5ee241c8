/** Taking back what was carried over, as long as nothing of it has rung: what was changed since stays, unless told otherwise. */
import { isSame } from '@zest-bell/core/course';
import type { CarryUndone } from '@zest-bell/core/exchange';
import type { Instant } from '@zest-bell/core/time';
import type { LiveCourse } from '../../course/activity/live.ts';
import { type CourseRow, courseHolds } from '../../course/entity.ts';
import { bumpVersions } from '../../course/versions.ts';
import { undoChange } from '../../intake/changes/undo.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { RuleRow, ruleVersionHolds, ruleHolds } from '../../rules/entity.ts';
import { readableRules, ruleName } from '../../rules/repository.ts';
import { WordingRow, wordingHolds } from '../../wording/entity.ts';
import { ViewRow, viewHolds } from '../../desk/lookout/entity.ts';
import { leaveSet } from '../../rules/sets/membership.ts';
import { hasRung } from './checklist.ts';
import { type CarryRow, carryHolds } from '../../rules/carried.ts';
import type { Actor } from '@zest-bell/core/access';
import { removeRows, updateRow } from '../../platform/database/writing.ts';

export interface UndoCarryOptions {
  /** What was changed since goes too. */
  readonly changedToo: boolean;
  readonly by: Actor;
  readonly now: Instant;
}

/** Throws `cannotUndo` where something of it has rung. The course is the transaction’s own. */
export async function undoCarry(
  tx: Tx<'course'>,
  row: CarryRow,
  course: CourseRow,
  live: LiveCourse,
  how: UndoCarryOptions,
): Promise<CarryUndone> {
  if (await hasRung(tx, row)) {
    const message = 'A rule that came along has already run. Turn off the rules that you do not want.';
    throw new AppError('cannotUndo', [{ path: 'carry', code: 'hasRung', message }]);
  }
  const stays: CarryLeftovers = [];
  await takeRules(tx, row, how, stays);
  await takeWordings(tx, row, how, stays);
  await takeViews(tx, row, how, stays);
  await takeSettings(tx, row, course, stays);
  await updateRow(tx, carryHolds, row, { undoneAt: how.now });
  await bumpVersions(tx, course.id, { settings: true });
  if (row.along.change !== null) await takeItems(tx, row, live, how, stays);
  return { stays };
}

type CarryLeftovers = CarryUndone['stays'][number][];

/** A rule that was edited since, turned on or put away is named, and stays unless chosen. */
async function takeRules(
  tx: Tx<'course'>,
  { course, along }: CarryRow,
  { changedToo }: UndoCarryOptions,
  stays: CarryLeftovers,
): Promise<void> {
  const rows = await tx.find(RuleRow, { course, key: { $in: along.rules.map((r) => r.rule) } });
  for (const rule of rows) {
    if (rule.version > 1 && !changedToo) {
      stays.push({ kind: 'rule', name: ruleName(rule) });
      continue;
    }
    await removeRows(tx, ruleVersionHolds, { rule: rule.id });
    await leaveSet(tx, 'rule', course, [rule.key]);
    await removeRows(tx, ruleHolds, { course, id: rule.id });
  }
  const left = await tx.find(RuleRow, { course }, { orderBy: { position: 'asc' } });
  for (const [position, rule] of left.entries())
    if (rule.position !== position) await updateRow(tx, ruleHolds, rule, { position });
}

/** A wording that a rule uses stays, no matter who wrote it. */
async function takeWordings(
  tx: Tx<'course'>,
  { course, along }: CarryRow,
  { changedToo }: UndoCarryOptions,
  stays: CarryLeftovers,
): Promise<void> {
  const rules = readableRules(await tx.find(RuleRow, { course }));
  const used = new Set(rules.flatMap((r) => r.steps.map((s) => s.wording)));
  for (const wording of await tx.find(WordingRow, { course, key: { $in: along.wordings.map((w) => w.wording) } })) {
    if (used.has(wording.key) || (wording.version > 1 && !changedToo)) {
      stays.push({ kind: 'wording', name: wording.name });
      continue;
    }
    await leaveSet(tx, 'wording', course, [wording.key]);
    await removeRows(tx, wordingHolds, { course, id: wording.id });
  }
}

async function takeViews(
  tx: Tx<'course'>,
  { course, along }: CarryRow,
  { changedToo }: UndoCarryOptions,
  stays: CarryLeftovers,
): Promise<void> {
  const was = new Map(along.views.map((v) => [v.name, v.view]));
  for (const view of await tx.find(ViewRow, { course, name: { $in: [...was.keys()] } })) {
    if (!changedToo && !isSame(view.view, was.get(view.name))) stays.push({ kind: 'view', name: view.name });
    else await removeRows(tx, viewHolds, { course, id: view.id });
  }
}

const SETTING_WORDS: Readonly<Record<string, string>> = { quietHours: 'Quiet hours', budget: 'Message budget' };

/** Limits and sender go back only where they are as they came. */
async function takeSettings(
  tx: Tx<'course'>,
  { along }: CarryRow,
  course: CourseRow,
  stays: CarryLeftovers,
): Promise<void> {
  const now = course.settings as unknown as Readonly<Record<string, unknown>>;
  const back: Record<string, unknown> = {};
  for (const { what, to, before } of along.settings) {
    if (isSame(now[what], to)) back[what] = before;
    else stays.push({ kind: 'setting', name: SETTING_WORDS[what] ?? what });
  }
  await updateRow(tx, courseHolds, course, { settings: { ...course.settings, ...back } });
  if (along.sender === null) return;
  if (isSame(course.sender, along.sender.after))
    await updateRow(tx, courseHolds, course, { sender: along.sender.before, senderConfirmed: along.sender.confirmed });
  else stays.push({ kind: 'setting', name: 'Sender and signature' });
}

/** Items and marks are a change of their own, which itself reports what depends on it. */
async function takeItems(
  tx: Tx<'course'>,
  row: CarryRow,
  live: LiveCourse,
  { by, now }: UndoCarryOptions,
  stays: CarryLeftovers,
): Promise<void> {
  try {
    await undoChange(tx, live.course, { change: row.along.change!, course: row.course, by, now });
  } catch (error) {
    if (!(error instanceof AppError)) throw error;
    stays.push({ kind: 'items', name: 'Items, named scores, and weights' });
  }
}
