/** A change of one copy, taken in another: as a draft that waits there, or confirmed through the same door as any edit. */
import type { Capability } from '@zest-bell/core/access';
import { lackingNames, parseRule, problemsOfNames, type Rule } from '@zest-bell/core/rules';
import { carryWordings, withChips } from '@zest-bell/core/carry';
import { pickOf, type PartChoices } from '@zest-bell/core/sets';
import type { Instant } from '@zest-bell/core/time';
import type { LiveCourses } from '../../course/activity/live.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { wouldDecide } from '../../rounds/deciding/wouldDecide.ts';
import { RuleRow } from '../../rules/entity.ts';
import { saveEdit } from '../../rules/lifecycle.ts';
import { findFile } from '../../wording/files/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { insertWording, wordingOfRow } from '../../wording/repository.ts';
import { copyAttachments } from '../carry/carryInto.ts';
import { mustBeReadable, storeWording } from '../../desk/wordings/changing.ts';
import { storedOf } from '../../rules/sets/document.ts';
import { type SetRow, setMemberHolds } from '../../rules/sets/entity.ts';
import { joinSet, setOf } from '../../rules/sets/membership.ts';
import { leftAloneBecause, SetReading, type SetCopy } from './reading.ts';
import type { Actor } from '@zest-bell/core/access';
import { updateRow } from '../../platform/database/writing.ts';

export interface SetChangeToTake {
  /** The set's version that the copy comes to. */
  readonly to: number;
  /** The version there that was looked at. */
  readonly version: number;
  readonly picks: PartChoices;
  /** Otherwise it waits there as a draft, and what is there goes on. */
  readonly confirm: boolean;
  readonly confirmed: boolean;
  readonly outside: readonly string[];
  readonly account: number;
  readonly by: Actor;
  readonly now: Instant;
}

/** In a course that the transaction has to itself. */
export async function applySetChange(
  tx: Tx<'course'>,
  live: LiveCourses,
  reading: SetReading,
  set: SetRow,
  copy: SetCopy,
  how: SetChangeToTake,
) {
  if (leftAloneBecause(copy) !== null) throw new AppError('notAllowed');
  if (copy.row.version !== how.version) throw new AppError('changedMeanwhile');
  const { member } = copy;
  if (!how.confirm) {
    return updateRow(tx, setMemberHolds, member, { pending: { to: how.to, picks: how.picks } });
  }
  const said = await reading.version(set, how.to);
  const merge = await reading.merge(set, copy, said, how.picks);
  if (merge.open.length > 0)
    throw new AppError(
      'invalidInput',
      merge.open.map((part) => ({
        path: `picks.${part}`,
        code: 'conflict',
        message: 'Both courses changed this. Choose which one it should be',
      })),
    );
  const mustBeAllowed = (capability: Capability) => {
    if (!copy.part.may.has(capability)) throw new AppError('notAllowed');
  };
  // Where all stays as it is there, nothing is stored: the copy has seen this version, and that is all.
  if (merge.lines.some((l) => pickOf(l, how.picks) === 'here')) await store();
  await updateRow(tx, setMemberHolds, member, { from: how.to, pending: null });

  async function store() {
    if ('rule' in merge.document) {
      const rule = await withWordings(tx, reading, said.live.id, copy, merge.document.rule, how);
      await confirmRule(tx, live, copy, rule, how, mustBeAllowed);
    } else {
      const row = copy.row as WordingRow;
      await copyAttachments(
        tx,
        (em, key) => findFile(em, said.live.id, key),
        copy.live.id,
        merge.document.wording,
        how.now,
      );
      const compiled = await mustBeReadable(tx, copy.live, merge.document.wording, how.now);
      await storeWording(tx, row, compiled, copy.live, mustBeAllowed);
    }
  }
}

async function confirmRule(
  tx: Tx<'course'>,
  live: LiveCourses,
  copy: SetCopy,
  merged: Rule,
  how: SetChangeToTake,
  mustBeAllowed: (capability: Capability) => void,
): Promise<void> {
  const row = copy.row as RuleRow;
  const parsed = parseRule({ ...merged, spellsFrom: null }, 'rule');
  if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
  const rule = { ...parsed.value, spellsFrom: merged.spellsFrom };
  const lacks = lackingNames(rule, copy.live.course);
  if (lacks.length > 0) throw new AppError('notInCourse', problemsOfNames(lacks, copy.live.course));
  if (row.status === 'on') mustBeAllowed('rules.run');
  const course = await live.get(tx, copy.live.id);
  await saveEdit(tx, row, rule, {
    course,
    now: how.now,
    by: how.account,
    confirmed: how.confirmed,
    outside: how.outside,
    decisionsAt: async (of, at) => (await wouldDecide(tx, course, of, at, how.now)).decisions,
  });
}

/** Wordings that the rule says and its course has not come along, and are of one set from then on. */
async function withWordings(
  tx: Tx<'course'>,
  reading: SetReading,
  from: number,
  { live }: SetCopy,
  rule: Rule,
  { by, now }: SetChangeToTake,
): Promise<Rule> {
  if (from === live.id) return rule;
  const to = live.id;
  const there = (await tx.find(WordingRow, { course: to })).map(wordingOfRow);
  const known = new Set(there.map((w) => w.id));
  const brought = new Map<string, string>();
  const source = (await reading.course(from)).course;
  for (const key of new Set(rule.steps.map((s) => s.wording))) {
    if (known.has(key)) continue;
    const row = await tx.findOne(WordingRow, { course: from, key });
    if (!row) throw new AppError('notFound');
    const { items } = await reading.way(from, to);
    const [carried] = carryWordings([wordingOfRow(row)], there, { source, items });
    const wording = withChips(carried!.wording, carried!.found);
    await copyAttachments(tx, (em, key) => findFile(em, from, key), to, wording, now);
    await insertWording(tx, to, wording);
    const saying = { document: storedOf({ wording: wordingOfRow(row) }, source), by, now };
    const { set } = await setOf(tx, { kind: 'wording', course: from, key }, saying);
    await joinSet(tx, set, { kind: 'wording', course: to, key: wording.id });
    brought.set(key, wording.id);
  }
  return { ...rule, steps: rule.steps.map((s) => ({ ...s, wording: brought.get(s.wording) ?? s.wording })) };
}
