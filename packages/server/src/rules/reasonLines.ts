/** Why things were changed, with what they are called today. */
import type { ReasonLine } from '@zest-bell/core/exchange';
import { actorNames } from '../access/audit.ts';
import type { ReasonRow } from '../course/reasons.ts';
import type { Em } from '../platform/database/orm.ts';
import { WordingRow } from '../wording/entity.ts';
import { RuleRow } from './entity.ts';
import { ruleName } from './repository.ts';

export async function reasonLines(em: Em, course: number, rows: readonly ReasonRow[]): Promise<ReasonLine[]> {
  if (rows.length === 0) return [];
  const by = await actorNames(
    em,
    rows.map((r) => r.by),
  );
  const keysOf = (what: ReasonRow['what']) => rows.filter((r) => r.what === what).map((r) => r.of);
  const rules = await em.find(RuleRow, { course, key: { $in: keysOf('rule') } }, { fields: ['key', 'document'] });
  const wordings = await em.find(WordingRow, { course, key: { $in: keysOf('wording') } }, { fields: ['key', 'name'] });
  const names = {
    rule: new Map(rules.map((r) => [r.key, ruleName(r)])),
    wording: new Map(wordings.map((w) => [w.key, w.name])),
    limits: new Map<string, string>(),
  };
  return rows.map(({ id, at, what, of, words, by: who }) => ({
    id,
    at,
    by: by(who),
    what,
    of,
    name: names[what].get(of) ?? of,
    words,
  }));
}
