/** Rules: what an instructor makes of them — new, changed, on or off, in order, put away. */
import { inCourse } from '../../course/lock.ts';
import { ruleDocument, type Rule, type RuleStatus } from '@zest-bell/core/rules';
import { inVoiceOf, type LiveCourse } from '../../course/activity/live.ts';
import { STARTERS } from '@zest-bell/core/starters';
import type { RuleCard, RuleChange } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { keepReason } from '../../course/reasons.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { insertWording } from '../../wording/repository.ts';
import { cards } from './cards.ts';
import { RuleRow, ruleHolds } from '../../rules/entity.ts';
import { fittingRule } from '../../rules/fitting.ts';
import {
  archive,
  changeStatus,
  mustHaveTexts,
  mustRender,
  saveEdit,
  unarchive,
  type RuleStatusChange,
} from '../../rules/lifecycle.ts';
import { insertRule, ruleOfRow } from '../../rules/repository.ts';
import { wouldDecide } from '../../rounds/deciding/wouldDecide.ts';
import { updateRows, updateRow } from '../../platform/database/writing.ts';

export function ruleRoutes(door: Door, { orm, reading, live, clock }: IntakeServices): void {
  door.on(contract.rules.all, async ({ course: id, account }) => {
    const em = reading.em.fork();
    const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
    return await cards(em, rows, await live.get(em, id), account);
  });

  door.on(contract.rules.make, async ({ course: id, body: { rule: draft, starter }, account }) => {
    const answer = await inCourse(orm, id, async (em) => {
      const course = await live.get(em, id);
      for (const wording of STARTERS.find((s) => s.id === starter)?.wordings ?? []) {
        await insertWording(em, id, wording);
      }
      const rule = {
        ...fittingRule(draft, course),
        id: `rule-${crypto.randomUUID().slice(0, 8)}`,
        status: 'draft' as const,
      };
      await mustHaveTexts(em, rule, course);
      const row = await insertRule(em, course, rule, account, clock.now());
      return (await cards(em, [row], course, account))[0]!;
    });
    return answer;
  });

  /** The order in which rules decide. */
  door.on(contract.rules.order, async ({ course: id, account, body: { rules } }) => {
    const answer = await inCourse(orm, id, async (em) => {
      const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
      const byKey = new Map(rows.map((r) => [r.key, r]));
      const named = rules.flatMap((key) => byKey.get(key) ?? []);
      if (new Set(rules).size !== rules.length || named.length !== rules.length) throw new AppError('notFound');
      // What the list did not name keeps its order, behind what it did.
      const rest = rows.filter((r) => !rules.includes(r.key));
      for (const [position, row] of [...named, ...rest].entries())
        if (row.position !== position) await updateRow(em, ruleHolds, row, { position });
      return cards(em, [...named, ...rest], await live.get(em, id), account);
    });
    return answer;
  });

  /** One or several at once: all of them change, or none. */
  door.on(contract.rules.status, async ({ course: id, body: input, account }) => {
    if (input.status === 'on')
      await readAhead(
        account,
        id,
        input.rules.map((r) => r.rule),
      );
    const answer = await inCourse(orm, id, async (em) => {
      const change = await changeOf(em, account, id, input);
      const changes: RuleChange[] = [];
      for (const { rule, version } of input.rules) {
        const row = await ruleRow(em, id, rule, version);
        const before = row.status;
        await changeStatus(em, row, input.status, change, input.newSpellsOnly);
        changes.push(await changed(em, row, change, before));
      }
      return changes;
    });
    return answer;
  });

  /** From a person who may not run rules, changes of one that is on are kept beside it: what it decides and says stays as it is. */
  door.on(contract.rules.change, async ({ course: id, body: input, path, account, actor, mayDo }) => {
    await readAhead(account, id, [path.rule], input.rule);
    const answer = await inCourse(orm, id, async (em) => {
      const change = await changeOf(em, account, id, input);
      const row = await ruleRow(em, id, path.rule, input.version);
      const rule = fittingRule(input.rule, change.course);
      if (row.status === 'on' && !mayDo('rules.run')) {
        await updateRow(em, ruleHolds, row, {
          drafted: { document: documentOf(rule, row, change.course), version: row.version, by: actor, at: change.now },
        });
        return changed(em, row, change, row.status);
      }
      await saveEdit(em, row, rule, change);
      await updateRow(em, ruleHolds, row, { drafted: null });
      await keepWhy(em, row, change, input.why);
      return changed(em, row, change, row.status);
    });
    return answer;
  });

  door.on(contract.rules.publish, async ({ course: id, body: input, path, account }) => {
    await readAhead(account, id, [path.rule]);
    return inCourse(orm, id, async (em) => {
      const change = await changeOf(em, account, id, input);
      const row = await ruleRow(em, id, path.rule, input.version);
      if (!row.drafted) throw new AppError('notFound');
      await saveEdit(em, row, fittingRule(row.drafted.document, change.course), change);
      await updateRow(em, ruleHolds, row, { drafted: null });
      await keepWhy(em, row, change, input.why);
      return changed(em, row, change, row.status);
    });
  });

  door.on(contract.rules.dropDraft, async ({ course: id, path }) => {
    await inCourse(orm, id, async (em) => {
      const dropped = await updateRows(
        em,
        ruleHolds,
        { course: id, key: path.rule, drafted: { $ne: null } },
        { drafted: null },
      );
      if (dropped === 0) throw new AppError('notFound');
    });
  });

  /** Put away: it is paused, and no list shows it until it is taken out again. */
  door.on(contract.rules.archive, async ({ course: id, body: input, path, account }) => {
    const answer = await inCourse(orm, id, async (em) => {
      const change = await changeOf(em, account, id, AGREED_TO_NOTHING);
      const row = await ruleRow(em, id, path.rule, input.version);
      const before = row.status;
      await archive(em, row, change);
      return changed(em, row, change, before);
    });
    return answer;
  });

  /** Nobody makes a rule write in another's name. */
  door.on(contract.rules.sender, async ({ course: id, path, account, body: { as } }) => {
    await inCourse(orm, id, async (em) => {
      const row = await em.findOne(RuleRow, { course: id, key: path.rule });
      if (!row) throw new AppError('notFound');
      await updateRow(em, ruleHolds, row, { owner: as === 'me' ? account : 0 });
    });
  });

  door.on(contract.rules.unarchive, async ({ course: id, body: input, path, account }) => {
    if (input.status === 'on') await readAhead(account, id, [path.rule]);
    const answer = await inCourse(orm, id, async (em) => {
      const change = await changeOf(em, account, id, input);
      const row = await ruleRow(em, id, path.rule, input.version);
      const before = row.status;
      await unarchive(em, row, input.status, change);
      return changed(em, row, change, before);
    });
    return answer;
  });

  /**
   * Reads the texts of rules that are to be on, or of a rule that is on and is edited, before the transaction:
   * the guard in it reports what is wrong with them, in its own order.
   */
  async function readAhead(account: number, id: number, keys: readonly string[], draft?: unknown): Promise<void> {
    const em = reading.em.fork();
    const read = await live.get(em, id);
    for (const row of await em.find(RuleRow, { course: id, key: { $in: [...keys] } })) {
      const course = inVoiceOf(read, row.owner ?? account);
      if (draft !== undefined && row.status !== 'on') continue;
      try {
        const rule = draft === undefined ? ruleOfRow(row) : fittingRule(draft, course);
        await mustRender(em, rule, course, clock.now());
      } catch {
        continue;
      }
    }
  }

  async function changeOf(
    em: Em,
    account: number,
    id: number,
    { confirmed, outside }: Pick<RuleStatusChange, 'confirmed' | 'outside'>,
  ): Promise<RuleStatusChange> {
    const course = await live.get(em, id);
    return {
      course,
      now: clock.now(),
      by: account,
      confirmed,
      outside,
      decisionsAt: async (rule, at) => (await wouldDecide(em, course, rule, at, clock.now())).decisions,
    };
  }
}

/** As it is kept: the rule that it is about, in the format of now. */
const documentOf = (draft: Rule, row: RuleRow, { course }: LiveCourse): object =>
  ruleDocument({ ...draft, id: row.key, status: row.status }, course.timeZone);

const AGREED_TO_NOTHING = { confirmed: false, outside: [] };

async function ruleRow(em: Em, course: number, key: string, version: number): Promise<RuleRow> {
  const row = await em.findOne(RuleRow, { course, key });
  if (!row) throw new AppError('notFound');
  if (row.version !== version) throw new AppError('changedMeanwhile');
  return row;
}

async function changed(
  em: Em,
  row: RuleRow,
  { course, by }: RuleStatusChange,
  before: RuleStatus,
): Promise<RuleChange> {
  const [rule] = (await cards(em, [row], course, by)) as [RuleCard];
  return { rule, before };
}

const keepWhy = (
  tx: Tx<'course'>,
  row: RuleRow,
  { by: account, now }: RuleStatusChange,
  words: string,
): Promise<void> =>
  keepReason(tx, { course: row.course, what: 'rule', of: row.key, version: row.version, account, at: now, words });
