/** A rule or a wording of one course, used in another too: a copy is made there, or one that is alike is joined. */
import { carryWordings, withChips, type CarryChoices } from '@zest-bell/core/carry';
import { isOneTerm } from '@zest-bell/core/sets';
import { namesOfRule } from '@zest-bell/core/rules';
import type { Instant } from '@zest-bell/core/time';
import type { LiveCourses } from '../../course/activity/live.ts';
import type { CourseRow } from '../../course/entity.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleOfRow } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { insertWording, wordingOfRow } from '../../wording/repository.ts';
import { copyAttachments, carryAlong } from '../carry/carryInto.ts';
import { bothSides } from '../carry/proposal.ts';
import { linkCarried } from '../carry/sets.ts';
import { storedOf } from '../../rules/sets/document.ts';
import { joinSet, memberOf, setOf, confirmedMatches, type CopyName } from '../../rules/sets/membership.ts';
import { SetReading } from './reading.ts';
import type { Actor } from '@zest-bell/core/access';

export interface CopyToUse {
  readonly from: CopyName;
  /** The key of the one there that is joined; null makes a copy. */
  readonly join: string | null;
  readonly by: { readonly account: number; readonly actor: Actor };
  readonly now: Instant;
}

/** In a course that the transaction has to itself. */
export async function useThere(tx: Tx<'course'>, live: LiveCourses, row: CourseRow, using: CopyToUse): Promise<void> {
  const { from, join, by, now } = using;
  const { source, target } = await bothSides(tx, live, { account: by.account, course: row.id, from: from.course });
  if (!isOneTerm(source.decided.course, target.decided.course))
    throw new AppError('invalidInput', [
      {
        path: 'courses',
        code: 'otherTerm',
        message: 'The two courses do not run at the same time. Carry over instead',
      },
    ]);
  if (join !== null) return joinThere(tx, live, using, row.id, join);
  const told = await confirmedMatches(tx, from.course, row.id);
  if (from.kind === 'wording') {
    const own = source.decided.wordings.find((w) => w.id === from.key);
    if (!own) throw new AppError('notFound');
    const items = (await new SetReading(tx, live, by.account).way(from.course, row.id)).items;
    const [carried] = carryWordings([own], target.decided.wordings, { source: source.decided.course, items });
    const wording = carried!.isThere ? carried!.wording : withChips(carried!.wording, carried!.found);
    if (!carried!.isThere) {
      await copyAttachments(tx, source.file, row.id, wording, now);
      await insertWording(tx, row.id, wording);
    }
    const saying = { document: storedOf({ wording: own }, source.decided.course), by: by.actor, now };
    const { set } = await setOf(tx, from, saying);
    return joinSet(tx, set, { kind: 'wording', course: row.id, key: wording.id });
  }
  const rule = source.decided.rules.find((r) => r.id === from.key);
  if (!rule) throw new AppError('notFound');
  const choices: CarryChoices = {
    told,
    withItems: false,
    rules: [rule.id],
    views: [],
    asTheyAre: [],
    settings: onlyMarksOf(
      namesOfRule(rule).flatMap((n) => (n.kind === 'mark' ? [n.name] : [])),
      source,
      target,
    ),
  };
  const order = { choices, sender: false, by, now };
  const { over } = await carryAlong(tx, row, source, target, order);
  await linkCarried(tx, source, target, over, order);
}

type BothSides = Awaited<ReturnType<typeof bothSides>>;

/** Limits do not come along with one rule; a named score does if the target has no score of that name. */
function onlyMarksOf(named: readonly string[], source: BothSides['source'], target: BothSides['target']) {
  const own = target.decided.course.marks;
  const marks = Object.keys(source.decided.course.marks).map(
    (mark) => [`marks.${mark}`, named.includes(mark) && !Object.hasOwn(own, mark)] as const,
  );
  return { quietHours: false, budget: false, groupWeights: false, ...Object.fromEntries(marks) };
}

/** The existing one keeps its text; differences show in the set. The wordings of the same steps join the set too. */
async function joinThere(
  tx: Tx<'course'>,
  live: LiveCourses,
  using: CopyToUse,
  course: number,
  key: string,
): Promise<void> {
  const { from, by, now } = using;
  const there = { kind: from.kind, course, key };
  if (await memberOf(tx, there))
    throw new AppError('invalidInput', [
      { path: 'join', code: 'ofASet', message: 'It is used together with other courses already' },
    ]);
  const source = (await live.get(tx, from.course)).course;
  if (from.kind === 'wording') {
    const own = await tx.findOne(WordingRow, { course: from.course, key: from.key });
    if (!own || (await tx.count(WordingRow, { course, key })) === 0) throw new AppError('notFound');
    const saying = { document: storedOf({ wording: wordingOfRow(own) }, source), by: by.actor, now };
    return joinSet(tx, (await setOf(tx, from, saying)).set, there);
  }
  const [own, other] = [
    await tx.findOne(RuleRow, { course: from.course, key: from.key }),
    await tx.findOne(RuleRow, { course, key }),
  ];
  if (!own || !other) throw new AppError('notFound');
  const [rule, joined] = [ruleOfRow(own), ruleOfRow(other)];
  const saying = { document: storedOf({ rule }, source), by: by.actor, now };
  await joinSet(tx, (await setOf(tx, from, saying)).set, there);
  for (const [i, step] of rule.steps.entries()) {
    const same = joined.steps[i]?.wording;
    const pair = { from: { ...from, kind: 'wording' as const, key: step.wording }, join: same ?? '' };
    if (same === undefined || (await memberOf(tx, { kind: 'wording', course, key: same }))) continue;
    await joinThere(tx, live, { ...using, ...pair }, course, same);
  }
}
