/** What every change of a wording goes through, wherever it is made. */
import type { Instant } from '@zest-bell/core/time';
import { ABOUT_NOTHING, aboutOf, textsOf, wordingSchema, type CompiledWording } from '@zest-bell/core/wording';
import type { Capability } from '@zest-bell/core/access';
import type { LiveCourse } from '../../course/activity/live.ts';
import { runningTrial } from '../../mail/trials/trial.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { parseInput } from '../../platform/http/http.ts';
import { RuleRow } from '../../rules/entity.ts';
import { mustSaySomething } from '../../rules/lifecycle.ts';
import { readableRules } from '../../rules/repository.ts';
import { mustReadForAll } from '../../wording/awkward.ts';
import { type WordingRow, wordingHolds } from '../../wording/entity.ts';
import { compiledOf, missingNames, wordingOfRow } from '../../wording/repository.ts';
import { updateRow } from '../../platform/database/writing.ts';

/** Those that say it, an archived one included. */
export const rulesUsing = async (em: Em, course: number, wording: string) =>
  readableRules(await em.find(RuleRow, { course })).filter((r) => r.steps.some((s) => s.wording === wording));

/**
 * A wording that can be made for every student of the course as it is, with every rule that uses it. Throws `wordingBroken`, and
 * `nothingWritten` where a rule that is on would send an empty one.
 */
export async function mustBeReadable(
  em: Em,
  course: LiveCourse,
  draft: unknown,
  now: Instant,
): Promise<CompiledWording> {
  const compiled = compiledOf(parseInput(wordingSchema, draft));
  if (!compiled.ok) throw new AppError('wordingBroken', compiled.problems);
  const using = await rulesUsing(em, course.id, compiled.value.wording.id);
  // A wording may be begun and kept; one that a rule sends on its own may not become empty.
  if (using.some((r) => r.status === 'on')) mustSaySomething(compiled.value, course);
  for (const about of using.length === 0 ? [ABOUT_NOTHING] : using.map((r) => aboutOf(r.when))) {
    await mustReadForAll(compiled.value, course, about, now);
  }
  return compiled.value;
}

export async function mustBeOfCourse(em: Em, wording: CompiledWording, course: LiveCourse): Promise<void> {
  const problems = await missingNames(em, wording, course);
  if (problems.length > 0) throw new AppError('wordingBroken', problems);
}

/** Whether a rule that is on says it. */
export const runs = async (em: Em, course: number, wording: string): Promise<boolean> =>
  (await rulesUsing(em, course, wording)).some((r) => r.status === 'on');

/** Stores what was found readable. Its texts stay while they are on a fair trial; changing a running rule needs its own capability. */
export async function storeWording(
  tx: Tx<'course'>,
  row: WordingRow,
  compiled: CompiledWording,
  course: LiveCourse,
  mustBeAllowed: (capability: Capability) => void,
): Promise<{ readonly onTrial: boolean }> {
  await mustBeOfCourse(tx, compiled, course);
  const isOther = JSON.stringify(textsOf(compiled.wording)) !== JSON.stringify(textsOf(wordingOfRow(row)));
  const onTrial = (await runningTrial(tx, row.course, row.key)) !== null;
  if (isOther && onTrial) throw new AppError('trialRuns');
  if (await runs(tx, row.course, row.key)) mustBeAllowed('rules.run');
  const { id: _key, text: body, ...words } = compiled.wording;
  await updateRow(tx, wordingHolds, row, { ...words, body, version: row.version + 1, drafted: null });
  return { onTrial };
}
