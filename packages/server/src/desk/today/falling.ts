/** Who falls through, and what an instructor does about it: write now, add an address, set aside for a while. */
import { inCourse } from '../../course/lock.ts';
import { evidenceOf, fallingThrough, type Falling } from '@zest-bell/core/rounds';
import type { FallingAnswer, FallingLine } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { asideIn, endAside } from '../../course/aside.ts';
import { setAddress, studentRow } from '../../course/roster.ts';
import { readsStaleSource } from '../../rules/sources.ts';
import type { MailHandOver } from '../../mail/outbox/handsOver.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { sendPastLimits } from '../../rounds/deciding/letThrough.ts';
import { fallingCaseOf } from '../../rounds/deciding/fallingCase.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule, ruleName } from '../../rules/repository.ts';
import { studentName } from '../../mail/log/query.ts';
import { beginSending, holdMessages, leave, sendingAnswer } from '../../mail/sendings/sendings.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { actorNames } from '../../access/audit.ts';

export function fallingRoutes(door: Door, services: IntakeServices, dispatcher: MailHandOver): void {
  const { orm, reading, live, clock, longWork } = services;

  door.on(contract.desk.falling, async ({ course: id, account, res }) => {
    const em = reading.em.fork();
    const { given, rules } = await fallingCaseOf(em, services, id);
    const found = await longWork.run(account, res, () => fallingThrough(given));
    const { course } = given.facts;
    const aside = await asideIn(em, id, given.now);
    const name = await actorNames(
      em,
      aside.map((a) => a.setBy),
    );
    const away = new Set(aside.map((a) => a.student));
    const line = (f: Falling): FallingLine => {
      const row = rules.get(f.rule)!;
      const rule = given.rules.find((r) => r.id === f.rule)!;
      const user = f.usedBy && (rules.get(f.usedBy.rule ?? '') ?? null);
      return {
        ...f,
        usedBy: f.usedBy && { ruleName: user ? ruleName(user) : null, at: f.usedBy.round },
        name: studentName(course, f.student),
        ruleName: ruleName(row),
        wording: rule.steps[f.step]!.wording,
        evidence: evidenceOf(f.student, rule, given.facts, given.now),
      };
    };
    return {
      lines: found.filter((f) => !away.has(f.student)).map(line),
      aside: aside.map((a) => ({
        student: a.student,
        name: studentName(course, a.student),
        until: a.until,
        note: a.note,
        by: name(a.setBy),
      })),
    } satisfies FallingAnswer;
  });

  /** Sends one nudge of a rule to one student now, past the limits that spare them too many. */
  door.on(contract.mail.letThrough, async ({ course: id, body: { rule, wording }, path, account, actor: by }) => {
    const { student } = path;
    const now = clock.now();
    const began = await inCourse(orm, id, async (em) => {
      const { row } = await live.get(em, id);
      if (row.stoppedAt != null) throw new AppError('mailStopped');
      const found = await em.findOne(RuleRow, { course: id, key: rule });
      const readable = found && readableRule(found);
      if (readable && readsStaleSource(readable, row, now)) throw new AppError('dataStale');
      const nudges = await sendPastLimits(em, live, { course: id, rule, student, wording, by, now });
      const sending = await beginSending(em, {
        account,
        course: id,
        kind: 'letThrough',
        words: '1 nudge',
        now,
        takeBack: {},
      });
      await holdMessages(em, sending, { nudge: nudges });
      return sending;
    });
    await leave(services, dispatcher, began);
    return { sending: began && sendingAnswer(began) };
  });

  door.on(contract.intake.address, async ({ course: id, body: { email }, path }) => {
    await inCourse(orm, id, async (em) => setAddress(em, await studentRow(em, id, path.student), email));
  });

  door.on(contract.desk.takeBackAside, async ({ course: id, path }) => {
    await inCourse(orm, id, (em) => endAside(em, id, path.student));
  });
}
