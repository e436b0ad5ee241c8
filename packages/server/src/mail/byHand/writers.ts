/** The author of a nudge: its rule, or the person who wrote it. */
import { accountOf } from '@zest-bell/core/access';
import { mailingOf } from '@zest-bell/core/nudges';
import type { Em } from '../../platform/database/orm.ts';
import { inSlices } from '../../platform/database/query.ts';
import { RuleRow } from '../../rules/entity.ts';
import { MailingRow } from './entity.ts';
import type { NudgeRow } from '../nudges/entity.ts';

const LOOK = { disableIdentityMap: true } as const;

/** The account that wrote each, by the nudge's id; null where the course itself did. */
export async function writersOf(
  em: Em,
  nudges: readonly Pick<NudgeRow, 'id' | 'course' | 'rule' | 'wording'>[],
): Promise<ReadonlyMap<number, number | null>> {
  const of = new Map<string, number | null>();
  for (const slice of inSlices([...new Set(nudges.flatMap((n) => n.rule ?? []))])) {
    const course = { $in: [...new Set(nudges.map((n) => n.course))] };
    const rows = await em.find(
      RuleRow,
      { course, key: { $in: [...slice] } },
      { ...LOOK, fields: ['course', 'key', 'owner'] },
    );
    for (const row of rows) of.set(`${row.course} ${row.key}`, row.owner ?? null);
  }
  const mailings = [...new Set(nudges.flatMap((n) => (n.rule == null ? (mailingOf(n.wording) ?? []) : [])))];
  for (const slice of inSlices(mailings)) {
    const rows = await em.find(MailingRow, { id: { $in: [...slice] } }, { ...LOOK, fields: ['course', 'id', 'by'] });
    for (const row of rows) of.set(`${row.course} ${row.id}`, accountOf(row.by));
  }
  return new Map(nudges.map((n) => [n.id, of.get(`${n.course} ${n.rule ?? mailingOf(n.wording)}`) ?? null]));
}
