/** Rules as stored and as the core reads them; what was parsed once is kept, so that the core's caches hold. */
import { LRUCache } from 'lru-cache';
import { nextRound, type Instant } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import type { Condition } from '@zest-bell/core/conditions';
import {
  cannotRunWords,
  parseRule,
  RULE_WEIGHTS,
  ruleDocument,
  type Rule,
  type RuleStatus,
  type RuleWeight,
} from '@zest-bell/core/rules';
import type { Em, Tx } from '../platform/database/orm.ts';
import { inSlices, rowsOf } from '../platform/database/query.ts';
import { RuleRow, RuleVersionRow, ruleHolds, ruleVersionHolds } from './entity.ts';
import { insertRow, updateRow } from '../platform/database/writing.ts';

/** The rule format as it is in the database. A newer one is upgraded here and nowhere else. */
export const RULE_FORMAT = 1;

/**
 * Rules as parsed, by their document. The core keeps what it computed for a condition by the condition's own object, so the
 * same document must give the same object: that is what this cache is for, and not the time of parsing.
 */
const parsed = new LRUCache<string, Readonly<Record<RuleStatus, Rule>>>({ max: 5000 });

export function readDocument(document: object, format: number, status: RuleStatus): Rule {
  if (format !== RULE_FORMAT) throw new Error(`A rule of format ${format} cannot be read by this release`);
  const key = JSON.stringify(document);
  let known = parsed.get(key);
  if (!known) {
    const result = parseRule({ ...document, status: 'draft' });
    if (!result.ok) throw new Error(`A stored rule does not fit: ${JSON.stringify(result.problems)}`);
    const draft = result.value;
    known = { draft, on: { ...draft, status: 'on' }, paused: { ...draft, status: 'paused' } };
    parsed.set(key, known);
  }
  return known[status];
}

export const ruleOfRow = (row: RuleRow): Rule => readDocument(row.document, row.format, row.status);

/** The rule, or null where it cannot be read: then it holds up no other. */
export const readableRule = (row: RuleRow): Rule | null => readable(() => ruleOfRow(row));

function readable(read: () => Rule): Rule | null {
  try {
    return read();
  } catch {
    return null;
  }
}

/** Those that can be read. */
export const readableRules = (rows: readonly RuleRow[]): Rule[] => rows.flatMap((row) => readableRule(row) ?? []);

/** A rule's name, also where the rest of it cannot be read. */
export const ruleName = (row: Pick<RuleRow, 'document' | 'key'>): string => {
  const { name } = row.document as { name?: unknown };
  return typeof name === 'string' ? name : row.key;
};

/** A rule's weight, also where the rest of it cannot be read; normal for rules from before there were weights. */
const ruleWeight = (row: Pick<RuleRow, 'document'>): RuleWeight => {
  const { weight } = row.document as { weight?: unknown };
  return RULE_WEIGHTS.find((w) => w === weight) ?? 'normal';
};

/** How late a round may be before it counts as waiting, in ms. */
const LATE = 60_000;

/** Since when a round of the rule waits that was due; null while none does. */
export const overdueSince = (row: Pick<RuleRow, 'nextRoundAt'>, now: Instant): Instant | null =>
  row.nextRoundAt != null && row.nextRoundAt < now - LATE ? row.nextRoundAt : null;

/** Rules that are on, in their order. */
export const rowsOn = (em: Em, course: number): Promise<RuleRow[]> =>
  em.find(RuleRow, { course, status: 'on' }, { orderBy: { position: 'asc' } });

/** The names of a course's rules by key. */
export async function ruleNames(em: Em, course: number): Promise<ReadonlyMap<string, string>> {
  const rows = await em.find(RuleRow, { course }, { fields: ['key', 'document'], disableIdentityMap: true });
  return new Map(rows.map((r) => [r.key, ruleName(r)]));
}

/** When a rule looks next, strictly after `now`; null while it is off, and while it names what its course lacks. */
export const nextRoundOf = (rule: Rule, course: Course, now: Instant): Instant | null =>
  rule.status === 'on' && cannotRunWords(rule, course) === null ? nextRound(rule.rhythm, course.calendar, now) : null;

/**
 * Plans the next round after a change of a rule or its course. A round that is due and has not run, because mail is stopped,
 * data is stale or the scheduler has not woken yet, stays owed as long as the rule is on.
 */
export async function planNextRound(
  tx: Tx<'course'>,
  row: RuleRow,
  rule: Rule,
  course: Course,
  now: Instant,
): Promise<void> {
  const planned = plannedRound(row, rule, course, now);
  if (planned.nextRoundAt !== undefined && planned.nextRoundAt !== row.nextRoundAt)
    await updateRow(tx, ruleHolds, row, planned);
}

function plannedRound(row: RuleRow, rule: Rule, course: Course, now: Instant): Partial<Pick<RuleRow, 'nextRoundAt'>> {
  const isOwed = row.nextRoundAt != null && row.nextRoundAt <= now;
  return isOwed && rule.status === 'on' ? {} : { nextRoundAt: nextRoundOf(rule, course, now) };
}

/** The rule format without the status, which is beside it. */
function documentOf(rule: Rule, course: Course): object {
  const { status: _status, ...document } = ruleDocument(rule, course.timeZone) as { status: unknown };
  return document;
}

/** Stores a new rule at the end of the list, of a course that the transaction has to itself. */
export async function insertRule(
  em: Tx<'course'>,
  course: { id: number; course: Course },
  rule: Rule,
  by: number | null,
  now: Instant,
): Promise<RuleRow> {
  const position = await em.count(RuleRow, { course: course.id });
  const document = documentOf(rule, course.course);
  const row = await insertRow(em, ruleHolds, {
    course: course.id,
    key: rule.id,
    position,
    status: rule.status,
    version: 1,
    document,
    nextRoundAt: nextRoundOf(rule, course.course, now),
    changedAt: now,
    owner: rule.status === 'draft' ? null : (by ?? 0),
  });
  await insertRow(em, ruleVersionHolds, {
    rule: row.id,
    version: 1,
    status: rule.status,
    document,
    savedAt: now,
    savedBy: by,
  });
  return row;
}

/** Stores the next version of a rule. */
export async function updateRule(
  em: Tx<'course'>,
  row: RuleRow,
  course: Course,
  rule: Rule,
  by: number | null,
  now: Instant,
): Promise<void> {
  const set = { version: row.version + 1, status: rule.status, document: documentOf(rule, course), changedAt: now };
  await updateRow(em, ruleHolds, row, { ...set, ...plannedRound(row, rule, course, now) });
  const { version, status, document } = row;
  await insertRow(em, ruleVersionHolds, { rule: row.id, version, status, document, savedAt: now, savedBy: by });
}

export const withStatus = (rule: Rule, status: RuleStatus): Rule => ({ ...rule, status });

/**
 * The conditions of earlier versions, by rule key and version, where they differ from today's (engine R3). A rule or a version that cannot
 * be read has none: it holds up no other.
 */
export async function earlierConditions(em: Em, rows: readonly RuleRow[]): Promise<Map<string, Condition>> {
  const out = new Map<string, Condition>();
  const changed = rows.filter((r) => r.version > 1);
  if (changed.length === 0) return out;
  const byId = new Map(changed.map((r) => [r.id, r]));
  for (const v of await em.find(RuleVersionRow, { rule: { $in: [...byId.keys()] } })) {
    const row = byId.get(v.rule)!;
    const today = readableRule(row);
    const then = today && readable(() => readDocument(v.document, row.format, row.status));
    if (then && JSON.stringify(then.when) !== JSON.stringify(today.when)) out.set(`${row.key}@${v.version}`, then.when);
  }
  return out;
}

/** Those of the rules that are or were on, by their keys. */
export async function everOn(em: Em, rows: readonly RuleRow[]): Promise<ReadonlySet<string>> {
  const on = new Set<number>();
  for (const slice of inSlices(rows.map((r) => r.id))) {
    const versions = em.getKnex()('rule_version').distinct('rule').whereIn('rule', slice).where('status', 'on');
    for (const { rule } of await rowsOf<{ rule: number }>(em, versions)) on.add(rule);
  }
  return new Set(rows.flatMap((r) => (r.status === 'on' || on.has(r.id) ? [r.key] : [])));
}

/** How much each rule of a course weighs as it is now, by its key (engine R7). */
export async function ruleWeights(em: Em, course: number): Promise<Map<string, RuleWeight>> {
  const rows = await em.find(RuleRow, { course }, { fields: ['key', 'document'], disableIdentityMap: true });
  return new Map(rows.map((row) => [row.key, ruleWeight(row)]));
}
