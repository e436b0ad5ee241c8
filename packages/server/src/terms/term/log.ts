/** What the log says of each rule over the whole term: sent, reached, returned, held back; and its texts. */
import { grouped, type Course } from '@zest-bell/core/course';
import { textResults } from '@zest-bell/core/outcomes';
import type { WithheldReason } from '@zest-bell/core/rounds';
import type { Rule } from '@zest-bell/core/rules';
import type { HeldBack, RuleLog, TextLog } from '@zest-bell/core/term';
import { dayNumberOf, type Instant } from '@zest-bell/core/time';
import type { LiveCourse } from '../../course/activity/live.ts';
import { sentTexts } from '../../mail/replies/sentTexts.ts';
import type { Em } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule, ruleName } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';

/** What was sent by hand, and by rules that are gone. */
const BY_HAND = 'Written by hand';

export interface TermLog {
  readonly rules: readonly Rule[];
  readonly log: readonly RuleLog[];
  readonly texts: readonly TextLog[];
}

export async function termLog(em: Em, live: LiveCourse, now: Instant): Promise<TermLog> {
  const { id } = live;
  const knex = em.getKnex();
  const sent = grouped(await sentTexts(em, live, now), (s) => s.rule ?? '');
  const ran = new Map(
    (
      await rowsOf<{ rule: string; n: number }>(
        em,
        knex('rule_round').where({ course: id }).groupBy('rule').select('rule').count({ n: '*' }),
      )
    ).map((r) => [r.rule, Number(r.n)]),
  );
  const held = grouped(await heldStudents(em, id), (h) => h.rule);
  const rows = await em.find(RuleRow, { course: id }, { orderBy: { position: 'asc' } });
  const keys = new Set(rows.map((r) => r.key));
  // What is put away counts where it did something.
  const shown = rows.filter((r) => r.archivedAt == null || sent.has(r.key));
  const line = (rule: string | null, name: string): RuleLog => {
    const own = rule === null ? [...sent].flatMap(([key, of]) => (keys.has(key) ? [] : of)) : (sent.get(rule) ?? []);
    const students = new Set(own.map((s) => s.student));
    return {
      rule,
      name,
      rounds: rule === null ? 0 : (ran.get(rule) ?? 0),
      result: textResults(own, 1, now).all,
      reached: students.size,
      firstDay: firstDayOf(own, live.course),
      heldBack: rule === null ? [] : heldBackOf(held.get(rule) ?? [], students),
    };
  };
  const byHand = line(null, BY_HAND);
  return {
    rules: shown.flatMap((r) => {
      const rule = readableRule(r);
      return rule ? [{ ...rule, status: 'on' as const, spellsFrom: null }] : [];
    }),
    log: [...shown.map((r) => line(r.key, ruleName(r))), ...(byHand.result.sent > 0 ? [byHand] : [])],
    texts: await textLogs(em, id, [...sent.values()].flat(), now),
  };
}

/** The median over students of the day of the term on which they got their first one. */
function firstDayOf(
  sent: readonly { readonly student: string; readonly sentAt: Instant }[],
  course: Course,
): number | null {
  const first = new Map<string, Instant>();
  for (const { student, sentAt } of sent) first.set(student, Math.min(sentAt, first.get(student) ?? Infinity));
  const begins = dayNumberOf(course.start);
  const days = [...first.values()].map((at) => course.calendar.dayNumber(at) - begins + 1).sort((a, b) => a - b);
  return days.length === 0 ? null : days[Math.floor((days.length - 1) / 2)]!;
}

interface HeldBackCount {
  readonly rule: string;
  readonly student: string;
  readonly reason: WithheldReason;
  readonly rounds: number;
}

const heldStudents = (em: Em, course: number): Promise<HeldBackCount[]> =>
  rowsOf<HeldBackCount>(
    em,
    em
      .getKnex()('refusal')
      .where({ course })
      .groupBy('rule', 'student', 'reason')
      .select('rule', 'student', 'reason')
      .sum({ rounds: 'rounds' }),
  );

function heldBackOf(held: readonly HeldBackCount[], nudged: ReadonlySet<string>): HeldBack[] {
  return [...grouped(held, (h) => h.reason)]
    .map(([reason, of]) => ({
      reason: reason as WithheldReason,
      students: of.length,
      neverNudged: of.filter((h) => !nudged.has(h.student)).length,
      rounds: of.reduce((n, h) => n + Number(h.rounds), 0),
    }))
    .sort((a, b) => b.neverNudged - a.neverNudged || b.students - a.students);
}

/** Of wordings with several texts that were sent. */
async function textLogs(
  em: Em,
  course: number,
  sent: Parameters<typeof textResults>[0],
  now: Instant,
): Promise<TextLog[]> {
  const rows = await em.find(WordingRow, { course }, { orderBy: { id: 'asc' }, disableIdentityMap: true });
  const byWording = grouped(
    sent as readonly (Parameters<typeof textResults>[0][number] & { wording: string })[],
    (s) => s.wording,
  );
  return rows.flatMap((row): TextLog[] => {
    const own = byWording.get(row.key) ?? [];
    if (row.variants.length === 0 || own.length === 0) return [];
    const { texts, better } = textResults(own, row.variants.length + 1, now);
    return [{ wording: row.name, texts, better }];
  });
}
