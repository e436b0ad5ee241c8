/** What was carried within one term is one rule in two courses from then on; what went to a later term is on its own. */
import type { CarryResult, CarryChoices } from '@zest-bell/core/carry';
import { isOneTerm } from '@zest-bell/core/sets';
import type { Instant } from '@zest-bell/core/time';
import type { Tx } from '../../platform/database/orm.ts';
import { storedOf, type SetDocument } from '../../rules/sets/document.ts';
import { joinSet, setOf, storeMatches } from '../../rules/sets/membership.ts';
import type { SetKind } from '@zest-bell/core/exchange';
import type { Side, CarrySource } from './sides.ts';
import type { Actor } from '@zest-bell/core/access';

interface SetsToCarry {
  readonly choices: Pick<CarryChoices, 'told'>;
  readonly by: { readonly actor: Actor };
  readonly now: Instant;
}

export async function linkCarried(
  tx: Tx<'course'>,
  source: CarrySource,
  target: Side,
  over: CarryResult,
  { choices, by, now }: SetsToCarry,
): Promise<void> {
  const { course } = source.decided;
  const { course: from } = source;
  // A file is of no course that goes on.
  if (from === null) return;
  if (!isOneTerm(course, target.decided.course)) return;
  await storeMatches(tx, from, target.live.id, choices.told);
  const link = async (kind: SetKind, key: string, to: string, document: SetDocument) => {
    const saying = { document: storedOf(document, course), by: by.actor, now };
    const { set } = await setOf(tx, { kind, course: from, key }, saying);
    await joinSet(tx, set, { kind, course: target.live.id, key: to });
  };
  for (const { from: key, wording } of over.wordings) {
    await link('wording', key, wording.id, { wording: source.decided.wordings.find((w) => w.id === key)! });
  }
  for (const { from: key, rule } of over.rules) {
    await link('rule', key, rule.id, { rule: source.decided.rules.find((r) => r.id === key)! });
  }
}
