/** What came of the nudges of a course, read from its log (engine O1 to O3). */
import type { Instant } from '@zest-bell/core/time';
import {
  actAfter,
  cameOfIt,
  canReturn,
  whatIsKnown,
  type ReturnAct,
  type WithheldSpell,
} from '@zest-bell/core/outcomes';
import type { CameOfItAnswer } from '@zest-bell/core/exchange';
import type { LiveCourse } from '../../course/activity/live.ts';
import { RefusalRow } from '../../mail/nudges/entity.ts';
import type { Em } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import { sentTexts } from '../../mail/replies/sentTexts.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule, ruleName } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';

export async function cameOfCourse(em: Em, live: LiveCourse, by: ReturnAct, now: Instant): Promise<CameOfItAnswer> {
  const sent = await sentTexts(em, live, now);
  const rules = await em.find(RuleRow, { course: live.id });
  const known = whatIsKnown(
    live.course,
    now,
    sent.map((s) => ({ student: s.student, start: s.sentAt })),
  );
  const withheld = by === 'rule' ? await withheldSpells(em, live, rules, now) : new Map<string, WithheldSpell[]>();
  const wordings = await em.find(WordingRow, { course: live.id }, { fields: ['key', 'name'] });
  return {
    asOf: now,
    lines: cameOfIt(sent, by, known, withheld),
    rules: Object.fromEntries(rules.map((r) => [r.key, ruleName(r)])),
    wordings: Object.fromEntries(wordings.map((w) => [w.key, w.name])),
  };
}

interface SpellNudge {
  readonly rule: string;
  readonly student: string;
  readonly spellStart: Instant;
  readonly round: Instant;
  /** When it reached the student; null while it did not. */
  readonly sent: Instant | null;
}

/** Spells that began with a decision to hold back, by rule. */
async function withheldSpells(
  em: Em,
  { id, course, facts }: LiveCourse,
  rules: readonly RuleRow[],
  now: Instant,
): Promise<Map<string, WithheldSpell[]>> {
  const firsts = new Map<string, RefusalRow>();
  const refusals = await em.find(
    RefusalRow,
    { course: id },
    { orderBy: { firstRound: 'asc' }, disableIdentityMap: true },
  );
  for (const r of refusals) if (!firsts.has(spellKey(r))) firsts.set(spellKey(r), r);
  const nudges = new Map<string, SpellNudge[]>();
  for (const n of await nudgesInThem(em, id)) nudges.set(spellKey(n), [...(nudges.get(spellKey(n)) ?? []), n]);
  const whens = new Map(rules.map((r) => [r.key, readableRule(r)?.when]));
  const spells = new Map<string, WithheldSpell[]>();
  for (const [key, first] of firsts) {
    const own = nudges.get(key) ?? [];
    const when = whens.get(first.rule);
    const person = course.personIndex.get(first.student);
    if (own.some((n) => n.round < first.firstRound) || !when || person === undefined || !canReturn(when)) continue;
    const act = actAfter(facts, person, when, first.firstRound)?.at ?? null;
    const spell: WithheldSpell = {
      student: first.student,
      start: first.firstRound,
      reason: first.reason,
      act: act !== null && act <= now ? act : null,
      sent: own.flatMap((n) => (n.sent === null ? [] : [Number(n.sent)])),
    };
    spells.set(first.rule, [...(spells.get(first.rule) ?? []), spell]);
  }
  return spells;
}

/** Nudges of spells in which something was held back. */
function nudgesInThem(em: Em, course: number): Promise<SpellNudge[]> {
  const knex = em.getKnex();
  const query = knex('nudge as n')
    .leftJoin('message as m', function () {
      this.on('m.nudge', 'n.id').andOnVal('m.kind', 'student').andOnVal('m.state', 'sent');
    })
    .where('n.course', course)
    .whereExists((held) => {
      void held
        .select(knex.raw('1'))
        .from('refusal as r')
        .whereRaw(
          'r.course = n.course and r.student = n.student and r.rule = n.rule and r.spell_start = n.spell_start',
        );
    })
    .select({ rule: 'n.rule', student: 'n.student', spellStart: 'n.spell_start', round: 'n.round_at' })
    .select({ sent: 'm.settled_at' });
  return rowsOf<SpellNudge>(em, query);
}

const spellKey = (s: { readonly rule: string; readonly student: string; readonly spellStart: Instant }): string =>
  `${s.rule} ${s.student} ${s.spellStart}`;
