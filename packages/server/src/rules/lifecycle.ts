/**
 * The life of a rule: a draft, on, paused, archived. Each is one stored fact. However a rule comes to be on, turned on,
 * edited while on, taken out of the archive or restored, it goes through `mayBeOn`, and there is no other way.
 */
import type { Problem } from '@zest-bell/core/problem';
import { nextRound, type Instant } from '@zest-bell/core/time';
import { domainsOf, isActiveStudent } from '@zest-bell/core/course';
import { lackingNames, problemsOfNames, type Rule, type RuleStatus } from '@zest-bell/core/rules';
import { aboutOf, emptyTexts, type CompiledWording } from '@zest-bell/core/wording';
import { outsideOf, type Decision } from '@zest-bell/core/rounds';
import { inVoiceOf, type LiveCourse } from '../course/activity/live.ts';
import { voiceMustBeProven } from '../course/senderProof.ts';
import { AppError } from '../platform/errors/errors.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { mustReadForAll } from '../wording/awkward.ts';
import { loadWordings, missingNames } from '../wording/repository.ts';
import { type RuleRow, ruleHolds } from './entity.ts';
import { ruleOfRow, updateRule } from './repository.ts';
import { updateRow } from '../platform/database/writing.ts';

/** Who changes a rule, what they agreed to, and what a round of the rule would decide. */
export interface RuleStatusChange {
  readonly course: LiveCourse;
  readonly now: Instant;
  /** The account. */
  readonly by: number;
  /** The instructor agreed to write to many. */
  readonly confirmed: boolean;
  /** Addresses outside the institution that they agreed to. */
  readonly outside: readonly string[];
  /** What a rule would decide at an instant, with no effect. */
  readonly decisionsAt: (rule: Rule, at: Instant) => Promise<readonly Decision[]>;
}

/** Stores a rule in another status. `newSpellsOnly` says which spells count once it is on; left out, it stays as it was. */
export async function changeStatus(
  em: Tx<'course'>,
  row: RuleRow,
  status: RuleStatus,
  change: RuleStatusChange,
  newSpellsOnly?: boolean,
): Promise<void> {
  const old = { ...ruleOfRow(row), status };
  const rule = newSpellsOnly === undefined ? old : { ...old, spellsFrom: newSpellsOnly ? change.now : null };
  await store(em, row, rule, change);
}

/** Stores a rule that was edited; its status stays. */
export async function saveEdit(em: Tx<'course'>, row: RuleRow, draft: Rule, change: RuleStatusChange): Promise<void> {
  const rule = { ...draft, id: row.key, status: row.status };
  if (rule.status !== 'on') await mustHaveTexts(em, rule, change.course);
  await store(em, row, rule, change);
}

/** Puts a rule away: it is no longer on, and no list shows it until it is taken out again. */
export async function archive(em: Tx<'course'>, row: RuleRow, change: RuleStatusChange): Promise<void> {
  await updateRow(em, ruleHolds, row, { archivedAt: change.now });
  const old = ruleOfRow(row);
  await store(em, row, { ...old, status: old.status === 'on' ? 'paused' : old.status }, change);
}

/** Takes a rule out of the archive, into a status. */
export async function unarchive(
  em: Tx<'course'>,
  row: RuleRow,
  status: RuleStatus,
  change: RuleStatusChange,
): Promise<void> {
  await updateRow(em, ruleHolds, row, { archivedAt: null });
  await changeStatus(em, row, status, change);
}

async function store(em: Tx<'course'>, row: RuleRow, rule: Rule, change: RuleStatusChange): Promise<void> {
  // Off needs nothing: a rule with a broken text can always be paused and archived.
  if (rule.status === 'on') await mayBeOn(em, row, rule, change);
  await updateRule(em, row, change.course.course, rule, change.by, change.now);
}

/** Throws what is in the way; otherwise the rule keeps the addresses that were agreed to. */
async function mayBeOn(em: Tx<'course'>, row: RuleRow, rule: Rule, change: RuleStatusChange): Promise<void> {
  const { now } = change;
  // A rule writes in the name of the person who first turned it on.
  await updateRow(em, ruleHolds, row, { owner: row.owner ?? change.by });
  const course = inVoiceOf(change.course, row.owner);
  if (row.archivedAt != null) throw new AppError('ruleArchived');
  if (!course.row.daysConfirmed) throw new AppError('daysNotConfirmed');
  await voiceMustBeProven(em, course, row.owner);
  const lacks = lackingNames(rule, course.course);
  if (lacks.length > 0) throw new AppError('notInCourse', problemsOfNames(lacks, course.course));
  const { needed, open } = outsideAddresses(rule, course, [...row.outside, ...change.outside]);
  if (open.length > 0)
    throw new AppError(
      'outsideAddresses',
      open.map((address) => outsideProblem(rule, address)),
    );
  await mustRender(em, rule, course, now);
  if (!change.confirmed) mustNotReachMany(rule, course, await change.decisionsAt(rule, nextLook(rule, course, now)));
  // Agreeing to an address that the rule does not write to means nothing.
  await updateRow(em, ruleHolds, row, { outside: [...new Set([...row.outside, ...needed])] });
}

/** The addresses outside the institution that a rule may write to, and those of them that nobody agreed to. */
function outsideAddresses(rule: Rule, { course, row }: LiveCourse, agreed: readonly string[]) {
  const known = new Set(agreed.map((a) => a.toLowerCase()));
  const needed = outsideOf(rule, course, domainsOf(row.sender)).map((to) => to.address.toLowerCase());
  return { needed, open: needed.filter((a) => !known.has(a)) };
}

const outsideProblem = (rule: Rule, address: string): Problem => ({
  path: 'outside',
  code: 'outsideAddress',
  message: `“${rule.name}” would write about students to ${address}, outside your institution`,
});

/** Throws `reachesMany` when a rule would write about more than the set share of the active students. */
export function mustNotReachMany(rule: Rule, course: LiveCourse, decisions: readonly Decision[]): void {
  const written = decisions.filter((d) => d.outcome === 'sent' || d.outcome === 'held').length;
  const students = course.course.people.filter(isActiveStudent).length;
  const { askAbove } = course.row.guards;
  if (written <= askAbove * students) return;
  const share = Math.round(askAbove * 100);
  throw new AppError('reachesMany', [
    {
      path: 'confirmed',
      code: 'reachesMany',
      message: `“${rule.name}” would write to ${written} of ${students} students; more than ${share}% of the class needs your confirmation`,
    },
  ]);
}

/** The texts of a rule. Throws `wordingBroken` when one is not there, cannot be read, or names what its course has not. */
export async function mustHaveTexts(em: Em, rule: Rule, course: LiveCourse): Promise<CompiledWording[]> {
  const keys = [...new Set(rule.steps.map((s) => s.wording))];
  const wordings = await loadWordings(em, course.id, keys);
  const problems: Problem[] = [];
  const texts: CompiledWording[] = [];
  for (const key of keys) {
    const wording = wordings(key);
    const found = wording.ok ? await missingNames(em, wording.value, course) : wording.problems;
    const step = rule.steps.findIndex((s) => s.wording === key);
    problems.push(...found.map((p) => ({ ...p, path: `rule.steps[${step}].wording.${p.path}` })));
    if (wording.ok) texts.push(wording.value);
  }
  if (problems.length > 0) throw new AppError('wordingBroken', problems);
  return texts;
}

/** Throws `nothingWritten` when a text of the wording is still the salutation and the signature that it began with. */
export function mustSaySomething({ wording }: CompiledWording, { sender }: LiveCourse): void {
  const problems = emptyTexts(wording, sender.signature);
  if (problems.length > 0) throw new AppError('nothingWritten', problems);
}

/**
 * Throws `wordingBroken` when a text of the rule cannot be made for some student, and `nothingWritten` when one is empty. Results are cached
 * for a moment: call it before a transaction as well, so that the reading does not happen under its lock.
 */
export async function mustRender(em: Em, rule: Rule, course: LiveCourse, now: Instant): Promise<void> {
  for (const text of await mustHaveTexts(em, rule, course)) {
    await mustReadForAll(text, course, aboutOf(rule.when), now);
    mustSaySomething(text, course);
  }
}

/** When a rule that is on looks next; right now when it has no round left. */
const nextLook = (rule: Rule, course: LiveCourse, now: Instant): Instant =>
  nextRound(rule.rhythm, course.course.calendar, now) ?? now;
