/** What would come along from one course into another, read from the database and told to the screen. */
import { carryOver, type CarryResult, type CarryChoices, type CourseToCarry } from '@zest-bell/core/carry';
import type { Course } from '@zest-bell/core/course';
import type { CarryPreview, CarryRuleLine, RunDays } from '@zest-bell/core/exchange';
import { namesOfRule, type Rule } from '@zest-bell/core/rules';
import { mayIn } from '../../access/permissions.ts';
import type { LiveCourse, LiveCourses } from '../../course/activity/live.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRules } from '../../rules/repository.ts';
import { findFile } from '../../wording/files/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { wordingOfRow } from '../../wording/repository.ts';
import { uploadedSource } from './uploadedSource.ts';
import type { Side, CarrySource } from './sides.ts';
import { ViewRow } from '../../desk/lookout/entity.ts';

/** Both sides. Throws `notFound` for a source that is not the account’s own, or is the course itself. */
export async function bothSides(
  em: Em,
  live: LiveCourses,
  { account, course, from }: { readonly account: number; readonly course: number; readonly from: number | string },
): Promise<{ source: CarrySource; target: Side }> {
  const target = await sideOf(em, await live.get(em, course));
  if (typeof from === 'string') return { source: await uploadedSource(em, course, from), target };
  if (from === course || !(await mayIn(em, account, from, 'course.read'))) throw new AppError('notFound');
  const { live: there, decided } = await sideOf(em, await live.get(em, from));
  const file = (of: Em, key: string) => findFile(of, from, key);
  return { source: { course: from, decided, sender: there.row.sender, file }, target };
}

/** What a course has of what can be carried; rules of the archive stay where they are. */
async function sideOf(em: Em, live: LiveCourse): Promise<Side> {
  const { id: course } = live;
  const rows = await em.find(RuleRow, { course }, { orderBy: { position: 'asc' } });
  const wordings = await em.find(WordingRow, { course }, { orderBy: { id: 'asc' } });
  const views = await em.find(ViewRow, { course }, { orderBy: { name: 'asc' } });
  return {
    live,
    decided: {
      course: live.course,
      rules: readableRules(rows.filter((r) => r.archivedAt == null)),
      alsoTaken: rows.map((r) => r.key),
      wordings: wordings.map(wordingOfRow),
      views: views.map(({ name, view }) => ({ name, view })),
    },
  };
}

export function previewOf(
  source: CarrySource,
  target: Side,
  choices: CarryChoices,
  isOwnSender: boolean,
): CarryPreview {
  const over = carryOver(source.decided, target.decided, choices);
  const { course } = source.decided;
  const known = new Set(target.decided.views.map((v) => v.name));
  return {
    source: {
      code: course.code,
      title: course.title,
      timeZone: course.timeZone,
      start: course.start,
      end: course.end,
      sender: source.sender?.name ?? '',
      isOwnSender,
      items: course.items.map(({ id, title, kind, dueAt }) => ({ id, title, kind, dueAt })),
    },
    days: over.carried.days,
    items: over.items,
    mayBringItems: target.decided.course.items.length === 0,
    rules: over.rules.map((rule) => ruleLine(rule, source.decided, over)),
    wordings: over.wordings.map(({ from, wording, isThere, found }) => ({ from, name: wording.name, isThere, found })),
    settings: over.carried.settings,
    views: over.views.map(({ name, without }) => ({ name, without, isThere: known.has(name) })),
  };
}

function ruleLine(carried: CarryResult['rules'][number], source: CourseToCarry, over: CarryResult): CarryRuleLine {
  const before = source.rules.find((r) => r.id === carried.from)!;
  const { rule, sentence, dates, problems } = carried;
  return {
    from: carried.from,
    to: rule.id,
    name: rule.name,
    status: rule.status,
    sentence,
    before: runOf(before, source.course),
    after: runOf(rule, over.carried.course),
    dates,
    problems,
    items: itemsNamed(before),
    wordings: [...new Set(before.steps.map((s) => s.wording))],
  };
}

/** Ids of the items that a rule names, each once. */
export const itemsNamed = (rule: Rule): string[] => [
  ...new Set(namesOfRule(rule).flatMap((n) => (n.kind === 'item' ? [n.name] : []))),
];

function runOf({ rhythm }: Rule, course: Course): RunDays {
  const first = rhythm.start.slice(0, 10);
  return { from: first < course.start ? course.start : first, until: rhythm.until ?? course.end };
}
