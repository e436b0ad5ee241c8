/** Fair trials of a wording's texts: what one would need, its state, its beginning and end (engine O5). */
import { randomUUID } from 'node:crypto';
import type { Instant } from '@zest-bell/core/time';
import { textsOf } from '@zest-bell/core/wording';
import {
  canReturn,
  FEWEST,
  neededFor,
  reachable,
  returnsEnd,
  TRIAL_POINTS,
  trialResult,
  trialStanding,
  type TrialNudge,
} from '@zest-bell/core/outcomes';
import type { NamedTrial, TrialAnswer, TrialPlan, TrialView } from '@zest-bell/core/exchange';
import { coursesWhere } from '../../access/permissions.ts';
import type { LiveCourse, LiveCourses } from '../../course/activity/live.ts';
import { CourseRow } from '../../course/entity.ts';
import { sentNudges } from '../nudges/returns.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRules } from '../../rules/repository.ts';
import { TrialCourseRow, TrialDrawRow, TrialRow, trialHolds, trialCourseHolds } from '../../wording/trials/entity.ts';
import { WordingRow } from '../../wording/entity.ts';
import { wordingOfRow } from '../../wording/repository.ts';
import { actorNames } from '../../access/audit.ts';
import { accountActor } from '@zest-bell/core/access';
import { insertRow, updateRow } from '../../platform/database/writing.ts';

interface TrialRequest {
  readonly live: LiveCourses;
  readonly account: number;
  readonly now: Instant;
  readonly row: WordingRow;
}

const wordsOf = (row: WordingRow): string => JSON.stringify(textsOf(wordingOfRow(row)));

/** The trial that runs with a wording, else the last one; null when there was none. */
async function trialOf(em: Em, course: number, wording: string): Promise<TrialRow | null> {
  const parts = await em.find(TrialCourseRow, { course, wording });
  const trials = await em.find(TrialRow, { id: { $in: parts.map((p) => p.trial) } }, { orderBy: { id: 'desc' } });
  return trials.find((t) => t.endedAt == null) ?? trials[0] ?? null;
}

export async function runningTrial(em: Em, course: number, wording: string): Promise<TrialRow | null> {
  const trial = await trialOf(em, course, wording);
  return trial?.endedAt == null ? trial : null;
}

export async function trialAnswer(em: Em, asked: TrialRequest): Promise<TrialAnswer> {
  const { row, now } = asked;
  const trial = await trialOf(em, row.course, row.key);
  return { trial: trial && (await viewOf(em, asked, trial, now)), plan: await planOf(em, asked) };
}

/** Who looks at a trial. */
type TrialViewer = Pick<TrialRequest, 'live' | 'account'>;

async function viewOf(em: Em, { live, account }: TrialViewer, trial: TrialRow, now: Instant): Promise<TrialView> {
  const parts = await em.find(TrialCourseRow, { trial: trial.id }, { orderBy: { id: 'asc' } });
  const own = new Set(await coursesWhere(em, account, 'course.read'));
  const nudges: TrialNudge[] = [];
  const courses: string[] = [];
  for (const part of parts) {
    const course = await live.get(em, part.course);
    // Its results are common; what a colleague's course is called is not everybody's business.
    courses.push(own.has(part.course) ? nameOf(course.row) : 'another course');
    nudges.push(...(await countedNudges(em, course, part, trial, now)));
  }
  const result = trialResult(nudges, trial.texts.length);
  const { id, startedAt, startedBy, texts: compared, points, needed } = trial;
  const endedAt = trial.endedAt ?? null;
  const name = await actorNames(em, [startedBy]);
  const standing = trialStanding(result, { needed, ended: endedAt !== null });
  return { ...result, id, startedAt, startedBy: name(startedBy), endedAt, compared, courses, points, needed, standing };
}

/** The trials of a course, the latest first, each with the name of its wording. */
export async function trialsOf(em: Em, reader: TrialViewer, course: number, now: Instant): Promise<NamedTrial[]> {
  const parts = await em.find(TrialCourseRow, { course }, { orderBy: { id: 'desc' } });
  const wordings = await em.find(WordingRow, { course }, { fields: ['key', 'name'] });
  const names = new Map(wordings.map((w) => [w.key, w.name]));
  const told: NamedTrial[] = [];
  for (const { trial, wording } of parts) {
    const row = await em.findOneOrFail(TrialRow, { id: trial });
    told.push({ wording, name: names.get(wording) ?? 'A removed wording', trial: await viewOf(em, reader, row, now) });
  }
  return told;
}

/** Wordings of a course with a trial that runs. */
export async function wordingsOnTrial(em: Em, course: number): Promise<ReadonlySet<string>> {
  const parts = await em.find(TrialCourseRow, { course });
  const running = await em.find(TrialRow, { id: { $in: parts.map((p) => p.trial) }, endedAt: null });
  return new Set(parts.filter((p) => running.some((t) => t.id === p.trial)).map((p) => p.wording));
}

/** Each student's first nudge of the trial that reached them with the text that was drawn. */
async function countedNudges(
  em: Em,
  course: LiveCourse,
  { wording }: TrialCourseRow,
  trial: TrialRow,
  now: Instant,
): Promise<TrialNudge[]> {
  const draws = await em.find(TrialDrawRow, { trial: trial.id, course: course.id }, { disableIdentityMap: true });
  const drawn = new Map(draws.map((d) => [d.student, d.text]));
  const first = new Map<string, TrialNudge>();
  for (const n of await sentNudges(em, course, now, { wording, since: trial.startedAt })) {
    const text = drawn.get(n.student);
    const isLate = trial.endedAt != null && n.sentAt > trial.endedAt;
    if (text === undefined || first.has(n.student) || !n.canReturn || n.edited || n.variant !== text || isLate)
      continue;
    const over = returnsEnd(n.sentAt, course.course.calendar) <= now;
    first.set(n.student, { text, returned: n.returned !== null, over });
  }
  return [...first.values()];
}

/** Reads what came of the wording in every course that may take part. */
export async function planOf(em: Em, asked: TrialRequest): Promise<TrialPlan> {
  const { row, live, now } = asked;
  const candidates = await coursesWithTexts(em, asked);
  const courses: { id: number; name: string; reached: number }[] = [];
  let [back, of] = [0, 0];
  for (const { id, wording } of candidates) {
    const course = await live.get(em, id);
    const sent = (await sentNudges(em, course, now, { wording })).filter((n) => n.canReturn);
    // As the trial counts them: who is back early is in no share until the others had their time too.
    const known = sent.filter((n) => returnsEnd(n.sentAt, course.course.calendar) <= now);
    back += known.filter((n) => n.returned).length;
    of += known.length;
    courses.push({ id, name: nameOf(course.row), reached: new Set(sent.map((n) => n.student)).size });
  }
  const baseKnown = of >= FEWEST;
  // Nobody or everybody leaves no room to count with: then it is one more of each.
  const base = baseKnown ? (back === 0 || back === of ? (back + 1) / (of + 2) : back / of) : 0.5;
  return {
    refused: await refusal(em, row),
    base,
    baseKnown,
    courses,
    needed: reachable(base).map((points) => ({ points, students: neededFor(base, points) })),
    reached: courses.reduce((n, c) => n + c.reached, 0),
  };
}

/** Courses of the account with a wording of the same texts that no trial has, the asked one first. */
export async function coursesWithTexts(
  em: Em,
  { account, row }: Pick<TrialRequest, 'account' | 'row'>,
): Promise<{ id: number; wording: string }[]> {
  const ids = await coursesWhere(em, account, 'drafts.write');
  const rows = await em.find(WordingRow, { course: { $in: ids }, subject: row.subject, body: row.body });
  const found: { id: number; wording: string }[] = [{ id: row.course, wording: row.key }];
  for (const other of rows) {
    if (found.some((f) => f.id === other.course) || wordsOf(other) !== wordsOf(row)) continue;
    if ((await runningTrial(em, other.course, other.key)) === null)
      found.push({ id: other.course, wording: other.key });
  }
  return found;
}

async function refusal(em: Em, row: WordingRow): Promise<string | null> {
  if (row.variants.length === 0)
    return 'A fair trial compares two texts or more. Add another text to this wording and save it first.';
  const rules = readableRules(await em.find(RuleRow, { course: row.course }));
  const using = rules.filter((r) => r.steps.some((s) => s.wording === row.key));
  if (using.length === 0) return 'No rule uses this wording yet.';
  if (!using.some((r) => canReturn(r.when)))
    return 'The rules that use this wording do not look for anything that a student’s visit or work could end. Zest Bell could not tell who came back.';
  return null;
}

/**
 * On a plan that was made before, so that nothing long is read in the transaction that this needs. Texts are drawn from
 * `seed`, which nobody should know beforehand. Throws `trialRuns`, `invalidInput`.
 */
export async function startTrial(
  em: Tx<'course'>,
  asked: Omit<TrialRequest, 'live'>,
  plan: Pick<TrialPlan, 'needed'>,
  order: { readonly points: (typeof TRIAL_POINTS)[number]; readonly courses: readonly number[] },
  seed: string = randomUUID(),
): Promise<void> {
  const { row, now, account } = asked;
  if (await runningTrial(em, row.course, row.key)) throw new AppError('trialRuns');
  const refused = await refusal(em, row);
  if (refused !== null) throw new AppError('invalidInput', [{ path: 'trial', code: 'refused', message: refused }]);
  const possible = await coursesWithTexts(em, asked);
  const taken = possible.filter((p) => p.id === row.course || order.courses.includes(p.id));
  const trial = await insertRow(em, trialHolds, {
    seed,
    texts: textsOf(wordingOfRow(row)),
    points: order.points,
    needed: plan.needed.find((n) => n.points === order.points)!.students,
    startedAt: now,
    startedBy: accountActor(account),
    endedAt: null,
  });
  for (const { id, wording } of taken) await insertRow(em, trialCourseHolds, { trial: trial.id, course: id, wording });
}

/** Ends it in all its courses. Throws `notFound`. */
export async function endTrial(em: Tx<'course'>, row: WordingRow, now: Instant): Promise<void> {
  const trial = await runningTrial(em, row.course, row.key);
  if (!trial) throw new AppError('notFound');
  await updateRow(em, trialHolds, trial, { endedAt: now });
}

const nameOf = ({ code, title }: Pick<CourseRow, 'code' | 'title'>): string => `${code} ${title}`;
