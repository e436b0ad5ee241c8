/** The limits of a course: what it allows its rules, changed in one place, with what they would have changed before. */
import { inCourse } from '../../course/lock.ts';
import { isSame, makeCourse } from '@zest-bell/core/course';
import { HistoryFacts, type Facts } from '@zest-bell/core/measures';
import { namesOfRule } from '@zest-bell/core/rules';
import { parseCourseLimits, withBudget, type CourseLimits } from '@zest-bell/core/rounds';
import { SENT, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { limitLogFrom } from '../deciding/limitLog.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import type { RoundServices } from '../services.ts';
import { keepReason } from '../../course/reasons.ts';
import { bumpVersions } from '../../course/versions.ts';
import { RuleRow } from '../../rules/entity.ts';
import { planNextRound, readableRules, ruleOfRow, rowsOn } from '../../rules/repository.ts';
import { updateRow } from '../../platform/database/writing.ts';
import { courseHolds } from '../../course/entity.ts';

const WEEKS = 4;

export function limitRoutes(door: Door, { orm, reading, live, clock, replays }: RoundServices): void {
  door.on(contract.course.limitsEffect, async ({ course: id, body, account, res }) => {
    const limits = soundLimits(body.limits);
    const em = reading.em.fork();
    const { course, facts } = await live.get(em, id);
    const rows = await rowsOn(em, id);
    const rules = readableRules(rows);
    const until = clock.now();
    const from = course.calendar.addDays(until, -7 * WEEKS);
    const logged = await limitLogFrom(em, id, rows, rules, from, [facts, factsUnder(limits, facts)]);
    await replays.answer(account, res, 'limits', facts, { rules, limits, logged, from, until });
    return SENT;
  });

  door.on(contract.course.limits, async ({ course: id, account, body: input }) => {
    const limits = soundLimits(input.limits);
    await inCourse(orm, id, async (em, row) => {
      if (row.settingsVersion !== input.version) throw new AppError('changedMeanwhile');
      const used = await marksInUse(em, id);
      const missing = used.filter((mark) => !Object.hasOwn(limits.marks, mark));
      if (missing.length > 0) {
        throw new AppError(
          'invalidInput',
          missing.map((mark) => ({
            path: `limits.marks.${mark}`,
            code: 'markInUse',
            message: `A rule compares with the ${mark} score, so you can change it but not remove it`,
          })),
        );
      }
      const facts = !isSame([limits.breaks, limits.marks], [row.breaks, row.marks]);
      await updateRow(em, courseHolds, row, limits);
      await bumpVersions(em, id, { facts, settings: true });
      await keepReason(em, { course: id, what: 'limits', account, at: clock.now(), words: input.why });
      const { course } = await live.get(em, id);
      const now = clock.now();
      for (const rule of await em.find(RuleRow, { course: id, status: 'on' })) {
        await planNextRound(em, rule, ruleOfRow(rule), course, now);
      }
    });
  });
}

/** As far as what may count depends on limits: spells by marks and breaks, and the message budget. */
function factsUnder({ marks, breaks, settings }: CourseLimits, facts: HistoryFacts): Facts {
  const { course, history } = facts;
  const same = JSON.stringify([marks, breaks]) === JSON.stringify([course.marks, course.breaks]);
  return same
    ? withBudget(facts, settings.budget)
    : new HistoryFacts(makeCourse({ ...course, marks, breaks, settings }), history);
}

function soundLimits(draft: unknown): CourseLimits {
  const parsed = parseCourseLimits(draft);
  if (!parsed.ok) {
    throw new AppError(
      'invalidInput',
      parsed.problems.map((p) => ({ ...p, path: `limits.${p.path}` })),
    );
  }
  return parsed.value;
}

/** The marks that rules compare with. A rule that cannot be read names none. */
async function marksInUse(em: Em, course: number): Promise<string[]> {
  const used = new Set<string>();
  for (const row of await em.find(RuleRow, { course })) {
    try {
      for (const named of namesOfRule(ruleOfRow(row))) if (named.kind === 'mark') used.add(named.name);
    } catch {
      continue;
    }
  }
  return [...used];
}
