/** One student: where they stand, every nudge, what came back, and whether their address works. */
import { inCourse } from '../../course/lock.ts';
import { isActiveStudent } from '@zest-bell/core/course';
import { amongClass, CATALOGUE, factWords, valueAt, type MeasureCall } from '@zest-bell/core/measures';
import { valueWords } from '@zest-bell/core/conditions';
import { logOf, spellsUpTo, standingOf } from '@zest-bell/core/rounds';
import { actWords, textResults } from '@zest-bell/core/outcomes';
import { storyOf } from '@zest-bell/core/lookout';
import type { StudentAnswer, StudentLine, StudentRule } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { NudgeRow } from '../../mail/nudges/entity.ts';
import { sentNudges } from '../../mail/nudges/returns.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { PlainMailRow } from '../../mail/plainMail/entity.ts';
import { ReplyRow } from '../../mail/replies/entity.ts';
import { sentText } from '../../mail/replies/sentTexts.ts';
import { ownWordsOf } from '../../mail/replies/settle.ts';
import { roundsRun } from '../../rounds/deciding/fallingCase.ts';
import { limitLogOf } from '../../rounds/deciding/limitLog.ts';
import { RuleRow } from '../../rules/entity.ts';
import { everOn, readableRule, ruleName, ruleNames } from '../../rules/repository.ts';
import { ruleNameIn } from '../../mail/log/query.ts';
import { type PersonRow, personHolds } from '../../course/entity.ts';
import { studentRow } from '../../course/roster.ts';
import { actorNames } from '../../access/audit.ts';
import { updateRow } from '../../platform/database/writing.ts';

/** Where anybody looks first. */
const FACTS: readonly MeasureCall[] = [
  { measure: 'daysSinceVisit' },
  { measure: 'missing' },
  { measure: 'late' },
  { measure: 'onTimeShare' },
  { measure: 'courseGrade' },
  { measure: 'absences' },
];

export function studentRoutes(door: Door, { orm, reading, live, clock }: IntakeServices): void {
  door.on(contract.desk.student, async ({ course: id, path }) => {
    const em = reading.em.fork();
    const course = await live.get(em, id);
    return await studentAnswer(em, course, await studentRow(em, id, path.student), clock.now());
  });

  /** The address was put right, or works again: the mark of the bounce goes. */
  door.on(contract.intake.addressWorks, async ({ course: id, path }) => {
    await inCourse(orm, id, async (em) => {
      const row = await studentRow(em, id, path.student);
      await updateRow(em, personHolds, row, { bouncedAt: null });
    });
  });
}

async function studentAnswer(em: Em, course: LiveCourse, row: PersonRow, now: number): Promise<StudentAnswer> {
  const person = course.course.personIndex.get(row.key)!;
  const { facts } = course;
  return {
    student: row.key,
    pausedUntil: row.paused ? (row.pausedUntil ?? null) : null,
    bouncedAt: row.bouncedAt ?? null,
    facts: FACTS.map((call) => {
      const value = valueAt(facts.timeline(person, call), now);
      const { title, unit } = CATALOGUE[call.measure];
      return {
        title,
        value: typeof value === 'number' ? valueWords(value, unit) : '—',
        among: typeof value === 'number' ? amongClass(value, valuesOfOthers(course, person, call, now)) : null,
        fact: factWords(facts.fact(person, call, now), course.course.timeZone),
      };
    }),
    ...(await correspondence(em, course, row.key, now)),
    story: storyOf(facts, person, now),
    rules: await rulesOf(em, course, person, now),
  };
}

/** The rules that are on or paused, each as it applies to one student; only that student’s part of the log is read. */
async function rulesOf(em: Em, { id, course, facts }: LiveCourse, person: number, now: number): Promise<StudentRule[]> {
  const order = { orderBy: { position: 'asc' }, disableIdentityMap: true } as const;
  const rows = await em.find(RuleRow, { course: id, archivedAt: null, status: { $in: ['on', 'paused'] } }, order);
  const log = logOf(await limitLogOf(em, id, rows, [course.people[person]!.id]));
  const ran = await roundsRun(em, id);
  const wereOn = await everOn(em, rows);
  return rows.flatMap((row): StudentRule[] => {
    const rule = readableRule(row);
    if (!rule) return [];
    return [
      {
        rule: row.key,
        name: ruleName(row),
        status: row.status,
        wasOn: wereOn.has(row.key),
        nextRoundAt: row.status === 'on' ? (row.nextRoundAt ?? null) : null,
        standing: standingOf(rule, person, facts, log, now),
        // A rule that did not look yet found nobody.
        spells: spellsUpTo(rule, person, facts, now).filter((s) =>
          (ran.get(row.key) ?? []).some((t) => t >= s.from && t < (s.to ?? Infinity)),
        ),
      },
    ];
  });
}

/** What the measure is for the other active students, where it is known. */
const valuesOfOthers = ({ course, facts }: LiveCourse, person: number, call: MeasureCall, now: number): number[] =>
  course.people.flatMap((p, i) => {
    const value = i === person || !isActiveStudent(p) ? null : valueAt(facts.timeline(i, call), now);
    return typeof value === 'number' ? [value] : [];
  });

/** Everything between the instructor and one student, the latest first, and what came of the nudges among it. */
async function correspondence(
  em: Em,
  live: LiveCourse,
  student: string,
  now: number,
): Promise<Pick<StudentAnswer, 'lines' | 'outcome'>> {
  const { id } = live;
  const rules = await ruleNames(em, id);
  const nudges = await em.find(NudgeRow, { course: id, student }, { orderBy: { id: 'asc' } });
  const ids = nudges.map((n) => n.id);
  const lines: StudentLine[] = nudges.map((n) => ({
    kind: 'nudge',
    at: n.roundAt,
    nudge: n.id,
    ruleName: ruleNameIn(rules, n.rule ?? null),
    subject: n.subject ?? null,
    state: n.state,
    reason: n.reason ?? null,
    evidence: n.evidence,
    toStudent: n.toStudent,
  }));
  const sent = await sentNudges(em, live, now, { students: [student] });
  for (const { nudge, returned } of sent) {
    if (!returned) continue;
    lines.push({ kind: 'return', at: returned.at, nudge, what: actWords(returned, live.course) });
  }
  const replies = await em.find(ReplyRow, { course: id, nudge: { $in: ids } });
  for (const r of replies) {
    const from = r.fromName || r.fromAddress;
    lines.push({ kind: r.kind, at: r.at, nudge: r.nudge, from, text: r.text.slice(0, 2000) });
  }
  const answers = await em.find(PlainMailRow, { course: id, kind: 'answer', nudge: { $in: ids } });
  const name = await actorNames(
    em,
    answers.map((m) => m.by),
  );
  for (const m of answers) {
    lines.push({ kind: 'answer', at: m.at, nudge: m.nudge!, by: name(m.by), text: ownWordsOf(m.text).slice(0, 2000) });
  }
  const answered = new Set(replies.filter((r) => r.kind === 'reply' && r.student != null).map((r) => r.nudge));
  const came = sent.map((n) => sentText(n, answered));
  return { lines: lines.sort((a, b) => b.at - a.at), outcome: textResults(came, 1, now).all };
}
