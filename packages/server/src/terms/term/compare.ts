/** Two terms side by side: which rules have one origin, and the report of each term by the code that makes it. */
import { conditionElsewhere, elsewhere } from '@zest-bell/core/carry';
import { conditionSentence, type Condition } from '@zest-bell/core/conditions';
import { contract, SENT } from '@zest-bell/core/contract';
import { DEFAULT_WORRY } from '@zest-bell/core/outcomes';
import type { ComparedTerm, OtherTerm, TermsAnswer } from '@zest-bell/core/exchange';
import { fileNameOf } from '@zest-bell/core/exports';
import { compareTerms, type ReportedTerm } from '@zest-bell/core/terms';
import type { TermReport } from '@zest-bell/core/term';
import type { Response } from 'express';
import type { Door } from '../../access/door.ts';
import { coursesWhere, mayIn } from '../../access/permissions.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { CourseRow } from '../../course/entity.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { CarryRow } from '../../rules/carried.ts';
import { RuleRow } from '../../rules/entity.ts';
import { SetMemberRow } from '../../rules/sets/entity.ts';
import { WordingRow } from '../../wording/entity.ts';
import { ShelfCopyRow } from '../shelf/entity.ts';
import { termLog } from './log.ts';
import { comparePdf } from './comparePdf.ts';
import { outcomeOf } from './outcome.ts';

const FRESH = { disableIdentityMap: true } as const;

export function compareRoutes(door: Door, services: IntakeServices): void {
  const { reading, live, clock, replays } = services;

  door.on(contract.term.others, async ({ course, account }) => {
    const em = reading.em.fork();
    const mine = (await coursesWhere(em, account, 'course.read')).filter((id) => id !== course);
    const rows = await em.find(
      CourseRow,
      { id: { $in: mine } },
      { ...FRESH, fields: ['id', 'code', 'title', 'start', 'end'] },
    );
    const carries = await em.find(CarryRow, { $or: [{ course }, { source: course }], undoneAt: null }, FRESH);
    const carried = new Set(carries.flatMap((c) => [c.course, c.source]));
    return rows
      .map(({ id, code, title, start, end }): OtherTerm => ({
        id,
        code,
        title,
        start,
        end,
        isCarried: carried.has(id),
      }))
      .sort((a, b) => Number(b.isCarried) - Number(a.isCarried) || b.start.localeCompare(a.start));
  });

  const compared = async (
    course: number,
    account: number,
    res: Response,
    body: { outcome: unknown; other: number },
  ) => {
    const em = reading.em.fork();
    if (body.other === course || !(await mayIn(em, account, body.other, 'course.read'))) throw new AppError('notFound');
    const [own, other] = [await live.get(em, course), await live.get(em, body.other)];
    const outcome = outcomeOf(body.outcome, own.course);
    const there = conditionElsewhere(outcome, elsewhere(own.course, other.course));
    const term = async (known: LiveCourse, worry: Condition): Promise<ReportedTerm> => {
      const at = Math.min(clock.now(), known.course.calendar.end);
      const log = await termLog(em, known, clock.now());
      const order = { ...log, outcome: worry, at, isBrief: true };
      const report = JSON.parse(await replays.result(account, res, 'term', known.facts, order)) as TermReport;
      return { course: known.course, rules: log.rules, report, wordingName: await wordingNames(em, known.id) };
    };
    const otherWorry = there ?? other.row.worry ?? DEFAULT_WORRY;
    const [here, beside] = [await term(own, outcome), await term(other, otherWorry)];
    const answer: TermsAnswer = {
      ...compareTerms(here, beside, await partnersOf(em, course, body.other)),
      here: sideOf(course, here, outcome),
      other: sideOf(body.other, beside, otherWorry),
      ownOutcome: there === null,
    };
    return { answer, zone: own.course.timeZone };
  };

  door.on(
    contract.term.compare,
    async ({ course, account, res, body }) => (await compared(course, account, res, body)).answer,
  );

  door.on(contract.term.comparePdf, async ({ course, account, res, body }) => {
    const { answer, zone } = await compared(course, account, res, body);
    const name = `${fileNameOf(`${answer.here.code} beside ${answer.other.code}`)}.pdf`;
    res
      .attachment(name)
      .type('application/pdf')
      .send(await comparePdf(answer, zone));
    return SENT;
  });
}

function sideOf(id: number, { course, report }: ReportedTerm, outcome: Condition): ComparedTerm {
  const { code, title, start, end } = course;
  const { at, students, known, worried, missedByAll } = report;
  return {
    id,
    code,
    title,
    start,
    end,
    at,
    students,
    known,
    worried,
    missedByAll,
    outcome: conditionSentence(outcome, course),
  };
}

async function wordingNames(em: Em, course: number): Promise<(id: string) => string> {
  const rows = await em.find(WordingRow, { course }, { ...FRESH, fields: ['key', 'name'] });
  const names = new Map(rows.map((r) => [r.key, r.name]));
  return (id) => names.get(id) ?? id;
}

/** Rules with one origin: of one set, carried from one course into the other, or taken from one thing on the shelf. Each has one partner. */
async function partnersOf(em: Em, here: number, other: number): Promise<(readonly [string, string])[]> {
  const pairs: (readonly [string, string])[] = [];
  const taken = { here: new Set<string>(), other: new Set<string>() };
  const pair = (a: string, b: string) => {
    if (taken.here.has(a) || taken.other.has(b)) return;
    taken.here.add(a);
    taken.other.add(b);
    pairs.push([a, b]);
  };
  const both = { course: { $in: [here, other] }, kind: 'rule' as const };
  const members = await em.find(SetMemberRow, both, FRESH);
  for (const m of members.filter((one) => one.course === here))
    for (const o of members.filter((one) => one.course === other && one.set === m.set)) pair(m.key, o.key);
  for (const [target, source] of [
    [here, other],
    [other, here],
  ] as const) {
    const keys = new Set((await em.find(RuleRow, { course: source }, { ...FRESH, fields: ['key'] })).map((r) => r.key));
    for (const { along } of await em.find(CarryRow, { course: target, source, undoneAt: null }, FRESH))
      for (const { rule, from = originIn(rule, keys) } of along.rules)
        if (from !== null) pair(target === here ? rule : from, target === here ? from : rule);
  }
  const copies = await em.find(ShelfCopyRow, both, FRESH);
  for (const c of copies.filter((one) => one.course === here))
    for (const o of copies.filter((one) => one.course === other && one.item === c.item)) pair(c.key, o.key);
  return pairs;
}

/** Records of before the origin was kept: an id that was taken in the other course got “-2” behind it. */
const originIn = (rule: string, keys: ReadonlySet<string>): string | null => {
  if (keys.has(rule)) return rule;
  const plain = rule.replace(/-\d+$/, '');
  return keys.has(plain) ? plain : null;
};
