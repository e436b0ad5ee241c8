/** Carrying over: one transaction writes all of it, and keeps what it wrote so that it can be gone through and taken back. */
import { carryOver, nobodys, type CarryResult, type CarryChoices } from '@zest-bell/core/carry';
import type { SenderSettings } from '@zest-bell/core/course';
import type { Instant } from '@zest-bell/core/time';
import { compileWording, type Wording } from '@zest-bell/core/wording';
import type { LiveCourse } from '../../course/activity/live.ts';
import { type CourseRow, courseHolds } from '../../course/entity.ts';
import { mustBeProven } from '../../course/senderProof.ts';
import { bumpVersions } from '../../course/versions.ts';
import { applyChange, rememberFormer } from '../../intake/changes/apply.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { insertRule } from '../../rules/repository.ts';
import { storeAttachment } from '../../wording/files/repository.ts';
import { insertWording } from '../../wording/repository.ts';
import { viewHolds } from '../../desk/lookout/entity.ts';
import { CarryRow, NOTHING_TICKED, type CarryRecord, carryHolds } from '../../rules/carried.ts';
import { itemsNamed } from './proposal.ts';
import type { Side, CarrySource } from './sides.ts';
import type { Actor } from '@zest-bell/core/access';
import { insertRow, updateRow } from '../../platform/database/writing.ts';

export interface CarryOrder {
  readonly choices: CarryChoices;
  /** The source’s sender comes along. */
  readonly sender: boolean;
  readonly by: { readonly account: number; readonly actor: Actor };
  readonly now: Instant;
}

/** Writes what comes along, in a course that the transaction has to itself. */
export async function carryAlong(
  tx: Tx<'course'>,
  row: CourseRow,
  source: CarrySource,
  target: Side,
  order: CarryOrder,
): Promise<{ readonly carried: CarryRow; readonly over: CarryResult }> {
  const { by, now } = order;
  const over = carryOver(source.decided, target.decided, order.choices);
  const settings = await writeSettings(tx, row, target.live, over);
  const change = await applyChange(
    tx,
    target.live.course,
    { ...over.carried.course, settings: target.live.course.settings },
    {
      course: row.id,
      kind: 'edit' as const,
      by: by.actor,
      now,
      title: `Carried over from ${source.decided.course.code}`,
    },
  );
  for (const { wording, isThere } of over.wordings) {
    if (isThere) continue;
    await copyAttachments(tx, source.file, row.id, wording, now);
    await insertWording(tx, row.id, wording);
  }
  const course = { id: row.id, course: over.carried.course };
  for (const { rule } of over.rules) await insertRule(tx, course, rule, by.account, now);
  await rememberUnmatched(tx, row.id, lost(source, over));
  const views = over.views.filter(({ name }) => !target.decided.views.some((v) => v.name === name));
  for (const { name, view } of views)
    await insertRow(tx, viewHolds, { course: row.id, name, view, by: by.actor, at: now });
  const sender = order.sender && source.sender ? await takeSender(tx, row, source.sender, target.live, order) : null;
  const carried = await insertRow(tx, carryHolds, {
    course: row.id,
    source: source.course ?? 0,
    at: now,
    by: by.actor,
    ticked: NOTHING_TICKED,
    sourceCode: source.decided.course.code,
    sourceTitle: source.decided.course.title,
    along: {
      settings,
      sender,
      change: change?.id ?? null,
      came: over.carried.settings.filter((s) => s.kept === 'source').map((s) => s.what),
      rules: over.rules.map((r) => ({
        rule: r.rule.id,
        from: r.from,
        dates: r.dates,
        problems: r.problems.filter((p) => p.code === 'dates' || p.code === 'sections'),
        items: itemsOf(r.from, source, over),
      })),
      wordings: over.wordings
        .filter((w) => !w.isThere)
        .map((w) => ({ wording: w.wording.id, finds: w.found.reduce((n, f) => n + f.finds.length, 0) })),
      views: views.map(({ name, view }) => ({ name, view })),
    },
  });
  await bumpVersions(tx, row.id, { settings: true });
  return { carried, over };
}

/** Items that rules name and that have no match in the target. */
const lost = (source: CarrySource, over: CarryResult) =>
  over.rules.flatMap((r) => itemsOf(r.from, source, over)).filter((item) => item.to === null);

/** What has no match keeps its title: the rules that came along say which item they lack. */
async function rememberUnmatched(
  tx: Tx<'course'>,
  course: number,
  items: readonly { readonly id: string; readonly from: string }[],
): Promise<void> {
  if (items.length > 0) await rememberFormer(tx, course, new Map(items.map(({ id, from }) => [id, from])));
}

/** Limits lie in the course’s settings; weights and marks are of its own data and change with its items. */
async function writeSettings(
  tx: Tx<'course'>,
  row: CourseRow,
  live: LiveCourse,
  over: CarryResult,
): Promise<CarryRecord['settings']> {
  const came = over.carried.settings.filter((s) => s.kept === 'source');
  const limits = came.filter((s) => s.what === 'quietHours' || s.what === 'budget');
  if (limits.length > 0) {
    await updateRow(tx, courseHolds, row, {
      settings: { ...row.settings, ...Object.fromEntries(limits.map((s) => [s.what, s.to])) },
    });
  }
  const before = live.course.settings as unknown as Readonly<Record<string, unknown>>;
  return limits.map(({ what, to }) => ({ what, to, before: before[what] ?? null }));
}

/** Throws like `mustBeProven`: an address that comes along is new in this course. */
async function takeSender(
  tx: Tx<'course'>,
  row: CourseRow,
  sender: SenderSettings,
  { fixed }: LiveCourse,
  { by }: CarryOrder,
): Promise<CarryRecord['sender']> {
  await mustBeProven(tx, fixed, { course: row.id, account: by.account, sender, before: row.sender });
  const taken = { before: row.sender, after: sender, confirmed: row.senderConfirmed };
  // Somebody has to look at it again: what was right there need not be here.
  await updateRow(tx, courseHolds, row, { sender, senderConfirmed: false, senderBy: by.account });
  return taken;
}

/** A wording’s files and pictures, as they are there. */
export async function copyAttachments(
  tx: Tx<'course'>,
  from: CarrySource['file'],
  to: number,
  wording: Wording,
  now: Instant,
): Promise<void> {
  const compiled = compileWording(wording);
  const pictures = compiled.ok ? compiled.value.pictures : [];
  for (const key of new Set([...(wording.files ?? []).map((f) => f.id), ...pictures])) {
    const file = await from(tx, key);
    if (file) await storeAttachment(tx, to, file, now);
  }
}

function itemsOf(rule: string, source: CarrySource, over: CarryResult): CarryRecord['rules'][number]['items'] {
  const titles = (course: { readonly items: readonly { readonly id: string; readonly title: string }[] }) =>
    new Map(course.items.map((i) => [i.id, i.title]));
  const [there, here] = [titles(source.decided.course), titles(over.carried.course)];
  const matches = new Map(over.carried.matches.map((m) => [m.from, m.to]));
  const named = source.decided.rules.find((r) => r.id === rule)!;
  const sides = { source: source.decided.course, target: over.carried.course };
  return itemsNamed(named).map((id) => {
    const to = matches.get(id) ?? null;
    const from = there.get(id) ?? id;
    if (to === null) return { id: nobodys(id, sides), from, to };
    return { id: to, from, to: here.get(to) ?? to };
  });
}
