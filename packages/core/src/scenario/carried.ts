/** One scenario's decisions carried into another, told as `zest-bell/carried@1` (engine K1 to K6). */
import { carry, type CarryOptions } from '../carry/carry.ts';
import { ruleDocument } from '../rules/document.ts';
import type { Scenario } from './format.ts';
import { itemDocument } from './write.ts';

const CARRIED_FORMAT = 'zest-bell/carried@1';

/** As much of a scenario file as is written anew. */
interface TargetJson {
  readonly course: object;
  readonly settings?: object;
  readonly items?: readonly unknown[];
  readonly rules?: readonly unknown[];
}

/** `merged` is the target's file with what came along; what names nothing there is in the report alone. */
export function carryScenario(
  source: Scenario,
  target: Scenario,
  targetJson: unknown,
  options: Pick<CarryOptions, 'told' | 'withItems'>,
): { readonly report: object; readonly merged: object } {
  const carried = carry(source, target, { ...options, leaveOut: true });
  const zone = target.course.timeZone;
  const json = targetJson as TargetJson;
  const came = new Set(carried.settings.filter((s) => s.kept === 'source').map((s) => s.what));
  const { course } = carried;
  const limits = {
    ...(came.has('quietHours') ? { quietHours: course.settings.quietHours } : {}),
    ...(came.has('budget') ? { budget: course.settings.budget } : {}),
  };
  const hasMarks = Object.keys(course.marks).length > Object.keys(target.course.marks).length;
  const items = course.items.slice(target.course.items.length);
  const rules = carried.rules.filter((r) => !r.left);
  const merged = {
    ...json,
    course: {
      ...json.course,
      ...(came.has('groupWeights') ? { groupWeights: course.groupWeights } : {}),
      ...(hasMarks ? { marks: course.marks } : {}),
    },
    ...(Object.keys(limits).length > 0
      ? { settings: { quietHours: null, budget: null, ...json.settings, ...limits } }
      : {}),
    ...(items.length > 0 ? { items: items.map((i) => itemDocument(i, zone)) } : {}),
    ...(rules.length > 0
      ? { rules: [...(json.rules ?? []), ...rules.map(({ rule }) => ruleDocument(rule, zone))] }
      : {}),
  };
  return {
    report: {
      format: CARRIED_FORMAT,
      days: carried.days,
      items: carried.items,
      rules: carried.rules.map(({ from, rule, dates, problems, left }) => ({
        from,
        to: left ? null : rule.id,
        status: left ? null : rule.status,
        dates,
        problems,
      })),
      settings: carried.settings,
    },
    merged,
  };
}
