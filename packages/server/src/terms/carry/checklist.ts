/** What was carried over and is still to be looked at (engine K8): a list stays until every line of it is done. */
import type { CarriedList, CarriedRuleLine } from '@zest-bell/core/exchange';
import { lackingNames } from '@zest-bell/core/rules';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { RoundRow } from '../../rounds/deciding/entity.ts';
import { RuleRow, RuleVersionRow } from '../../rules/entity.ts';
import { ruleOfRow } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { compiledOf, wordingOfRow } from '../../wording/repository.ts';
import type { CarryRow } from '../../rules/carried.ts';
import { actorNames } from '../../access/audit.ts';

export async function checklistOf(
  em: Em,
  row: CarryRow,
  { id: course, course: known, row: courseRow }: LiveCourse,
): Promise<CarriedList> {
  const { along, ticked } = row;
  const name = await actorNames(em, [row.by]);
  const keys = { rules: along.rules.map((r) => r.rule), wordings: along.wordings.map((w) => w.wording) };
  const once = { disableIdentityMap: true } as const;
  const rules = new Map((await em.find(RuleRow, { course, key: { $in: keys.rules } }, once)).map((r) => [r.key, r]));
  const wereOn = await everOn(
    em,
    [...rules.values()].map((r) => r.id),
  );
  const wordings = new Map(
    (await em.find(WordingRow, { course, key: { $in: keys.wordings } }, once)).map((w) => [w.key, w]),
  );
  return {
    id: row.id,
    from: { code: row.sourceCode, title: row.sourceTitle },
    at: row.at,
    by: name(row.by),
    // A rule that was put away, or is gone, asks for nothing.
    rules: along.rules.flatMap(({ rule: key, dates, problems, items }): CarriedRuleLine[] => {
      const stored = rules.get(key);
      if (!stored || stored.archivedAt != null) return [];
      const rule = ruleOfRow(stored);
      const titles = new Map(items.map((item) => [item.id, item.from]));
      const lacks = lackingNames(rule, known).map((n) => (n.kind === 'item' && titles.get(n.name)) || n.name);
      const wasOn = wereOn.has(stored.id);
      return [
        {
          rule: key,
          name: rule.name,
          status: rule.status,
          version: stored.version,
          dates,
          problems,
          lacks: [...new Set(lacks)],
          items: items.map(({ from, to }) => ({ from, to })),
          done: wasOn || ticked.rules.includes(key),
          wasOn,
        },
      ];
    }),
    wordings: along.wordings.flatMap(({ wording, finds }) => {
      const stored = wordings.get(wording);
      if (!stored) return [];
      const compiled = compiledOf(wordingOfRow(stored));
      const lacksItem = compiled.ok && compiled.value.items.some((item) => !known.itemIndex.has(item));
      return [{ wording, name: stored.name, finds, lacksItem, done: ticked.wordings.includes(wording) }];
    }),
    sender: along.sender && { done: ticked.sender || courseRow.senderConfirmed, confirmed: courseRow.senderConfirmed },
    settings: (along.came ?? []).map((what) => ({ what, done: ticked.settings?.includes(what) ?? false })),
    hasRung: await hasRung(em, row),
  };
}

/** Whether every line of a list is done. */
export const isDone = ({ rules, wordings, settings, sender }: CarriedList): boolean =>
  [...rules, ...wordings, ...settings, ...(sender ? [sender] : [])].every((line) => line.done);

/** Whether a round of a rule that came along has run. */
export const hasRung = async (em: Em, { course, along }: CarryRow): Promise<boolean> =>
  (await em.count(RoundRow, { course, rule: { $in: along.rules.map((r) => r.rule) } })) > 0;

/** Rules that somebody turned on: one that is paused later does not bring the list back. */
async function everOn(em: Em, rules: readonly number[]): Promise<Set<number>> {
  const on = await em.find(
    RuleVersionRow,
    { rule: { $in: [...rules] }, status: 'on' },
    { fields: ['rule'], disableIdentityMap: true },
  );
  return new Set(on.map((v) => v.rule));
}
