/** The send log, the rules and Lookout, asked over all of one’s courses: each row with its course. What is archived is left out. */
import { carryView, shiftBetween } from '@zest-bell/core/carry';
import { fullName } from '@zest-bell/core/course';
import {
  columnKey,
  compared,
  LookoutTable,
  parseView,
  ruleMatches,
  rulesIn,
  type LookoutView,
} from '@zest-bell/core/lookout';
import { conditionSentence } from '@zest-bell/core/conditions';
import { tellsOthersOnly } from '@zest-bell/core/rules';
import type { EveryLogLine, EveryLookoutAnswer, EveryRule, EveryStudent } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import type { Instant } from '@zest-bell/core/time';
import type { Door } from '../../access/door.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { linesBehind, logCounts } from '../../mail/log/query.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRules, ruleNames } from '../../rules/repository.ts';
import { cards } from '../../desk/rules/cards.ts';
import { coursesOf } from '../../desk/inbox/inbox.ts';
import { lookoutLog } from '../../desk/lookout/log.ts';
import { SetMemberRow } from '../../rules/sets/entity.ts';
import { SetReading } from '../sets/reading.ts';

/** Rows that are sent; who looks for more narrows the view. */
const MOST_ROWS = 3000;

export function everywhereRoutes(door: Door, { reading: readOnly, live, clock }: IntakeServices): void {
  door.on(contract.desk.everyLog, async ({ account, query: { take, beforeAt, beforeNudge, ...wanted } }) => {
    const em = readOnly.em.fork();
    const last = beforeAt === undefined || beforeNudge === undefined ? undefined : { at: beforeAt, nudge: beforeNudge };
    const lines: EveryLogLine[] = [];
    const counts = { all: 0, sent: 0, queued: 0, held: 0, uncertain: 0, failed: 0, withdrawn: 0 };
    for (const course of await coursesOf(em, account)) {
      const known = await live.get(em, course);
      const of = { id: course, course: known.course, rules: await ruleNames(em, course) };
      const { code, timeZone } = known.course;
      const own = await linesBehind(em, of, wanted, last, take + 1);
      lines.push(...own.map((line) => ({ ...line, course, code, timeZone })));
      if (last) continue;
      for (const [state, n] of Object.entries(await logCounts(em, of, wanted))) counts[state as 'all'] += n;
    }
    lines.sort((a, b) => b.at - a.at || b.nudge - a.nudge);
    return { lines: lines.slice(0, take), counts: last ? null : counts, more: lines.length > take };
  });

  door.on(contract.desk.everyRule, async ({ account }) => {
    const em = readOnly.em.fork();
    const every: EveryRule[] = [];
    for (const id of await coursesOf(em, account)) {
      const known = await live.get(em, id);
      const { code, timeZone } = known.course;
      const rows = await em.find(RuleRow, { course: id, archivedAt: null }, { orderBy: { position: 'asc' } });
      for (const { rule, sentence, nextRoundAt, cannotRun, wasOn, lastRound } of await cards(em, rows, known, account))
        every.push({
          course: id,
          code,
          timeZone,
          id: rule.id,
          name: rule.name,
          label: rule.label,
          status: rule.status,
          looksFor: conditionSentence(rule.when, known.course),
          tellsOthers: tellsOthersOnly(rule),
          sentence,
          nextRoundAt,
          cannotRun,
          wasOn,
          lastRound,
        });
    }
    return every;
  });

  door.on(contract.desk.everyLookout, async ({ course, account, body }) => {
    const parsed = parseView(body.view);
    if (!parsed.ok) throw new AppError('invalidInput', parsed.problems);
    const view = parsed.value;
    const reading = new SetReading(readOnly.em.fork(), live, account);
    const names = await ruleNames(reading.em, course);
    const parts: CourseSlice[] = [];
    for (const other of await coursesOf(reading.em, account))
      parts.push(await partOf(reading, view, { from: course, to: other, names }, body.search, clock.now()));
    const rows = sorted(
      parts.flatMap((p) => p.rows),
      view,
    );
    return {
      rows: rows.slice(0, MOST_ROWS),
      shown: rows.length,
      students: parts.reduce((n, p) => n + p.students, 0),
      courses: parts.map(({ live: { id, course }, rows, without }) => ({
        course: id,
        code: course.code,
        shown: rows.length,
        without,
      })),
    } satisfies EveryLookoutAnswer;
  });
}

/** With the name by which the table sorts. */
interface StudentRow {
  readonly student: EveryStudent;
  readonly byName: string;
}

interface CourseSlice {
  readonly live: LiveCourse;
  readonly rows: readonly StudentRow[];
  readonly students: number;
  readonly without: readonly string[];
}

/** A view of one course as another one answers it, by the code that Lookout has; `names` are of the rules of the first. */
async function partOf(
  reading: SetReading,
  view: LookoutView,
  { from, to, names }: { from: number; to: number; names: ReadonlyMap<string, string> },
  search: string,
  now: Instant,
): Promise<CourseSlice> {
  const { em } = reading;
  const live = await reading.course(to);
  const way = await reading.way(from, to);
  const rules = await rulesThere(reading, view, from, to);
  const carriage = { ...way, shift: shiftBetween(way.source, way.target) };
  const { view: there, without } = from === to ? { view, without: [] } : carryView(view, carriage, rules, names);
  const { course, facts } = live;
  // Who would be asked for by what this course has not, is nobody’s answer.
  const isAsked =
    from === to ||
    ((view.when === null) === (there.when === null) && view.ruleBrushes.length === there.ruleBrushes.length);
  const { students: logs } = await lookoutLog(em, live, now);
  const asked = rulesIn(there);
  const rows = await em.find(RuleRow, { course: to, key: { $in: [...asked] }, archivedAt: null });
  const matches = new Map(readableRules(rows).map((rule) => [rule.id, ruleMatches(rule, facts, now)]));
  const table = new LookoutTable(facts, now, { logs: new Map(Object.entries(logs)), rules: matches });
  const shown = isAsked ? [...table.show({ ...there, search }).rows] : [];
  const data = view.columns.map((column) => {
    const key = from === to ? column : columnThere(column, view, there, rules, carriage, names);
    return key && table.column(key);
  });
  return {
    live,
    without,
    students: table.people.length,
    rows: shown.map((row): StudentRow => {
      const person = course.people[table.people[row]!]!;
      return {
        byName: `${person.lastName} ${person.firstName}`,
        student: {
          course: to,
          code: course.code,
          student: person.id,
          name: fullName(person),
          values: data.map((column) => column?.values[row] ?? null),
        },
      };
    }),
  };
}

/** A column of the view as it is there; null if absent. */
function columnThere(
  column: LookoutView['columns'][number],
  view: LookoutView,
  there: LookoutView,
  rules: ReadonlyMap<string, string>,
  carriage: Parameters<typeof carryView>[1],
  names: ReadonlyMap<string, string>,
): LookoutView['columns'][number] | null {
  const alone = { ...view, columns: [column], when: null, ruleBrushes: [], sort: [] };
  const [moved] = carryView(alone, carriage, rules, names).view.columns;
  return moved && there.columns.some((c) => columnKey(c) === columnKey(moved)) ? moved : null;
}

/** Rules of the view that are of one set with one there. */
async function rulesThere(
  { em }: SetReading,
  view: LookoutView,
  from: number,
  to: number,
): Promise<Map<string, string>> {
  const named = [...rulesIn(view)];
  const own = await em.find(SetMemberRow, { kind: 'rule', course: from, key: { $in: named } });
  const theirs = await em.find(SetMemberRow, { kind: 'rule', course: to, set: { $in: own.map((m) => m.set) } });
  return new Map(
    own.flatMap((m) => {
      const other = theirs.find((t) => t.set === m.set);
      return other ? [[m.key, other.key] as const] : [];
    }),
  );
}

/** As the view sorts, over all courses; equal ones by name, then by course. */
function sorted(rows: StudentRow[], view: LookoutView): EveryStudent[] {
  const by = view.sort.flatMap(({ by: name, down }) => {
    const place = view.columns.findIndex((c) => columnKey(c) === name);
    return place < 0 ? [] : [{ place, down }];
  });
  rows.sort((a, b) => {
    for (const { place, down } of by) {
      const order = compared(a.student.values[place] ?? null, b.student.values[place] ?? null, down);
      if (order !== 0) return order;
    }
    return compared(a.byName, b.byName, false) || compared(a.student.code, b.student.code, false);
  });
  return rows.map((r) => r.student);
}
