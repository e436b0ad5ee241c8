/** What a rule has to do with a change of its course: whether it looks at what changed, and whether it names what is gone. */
import { isSame, type CourseChanges } from '../course/changes.ts';
import { isInCourse, namesOfRule, type NamesOfCourse } from './names.ts';
import type { Rule } from './rule.ts';

export interface RuleEffects {
  readonly looks: boolean;
  readonly broken: boolean;
}

/** A rule over all items names none of them, and is not counted. */
export function touchedBy(rule: Rule, changes: CourseChanges, after: NamesOfCourse): RuleEffects {
  const items = new Set(changes.items.map((c) => c.id));
  const groups = new Set(changes.items.flatMap((c) => [c.before?.group, c.after?.group].filter((g) => g != null)));
  const people = new Set(changes.people.map((c) => c.id));
  const sections = new Set(
    changes.people.flatMap((c) =>
      c.before?.section === c.after?.section ? [] : [c.before?.section, c.after?.section].filter((s) => s != null),
    ),
  );
  const columns = new Set(
    changes.people.flatMap((c) => {
      const [before, now] = [c.before?.fields ?? {}, c.after?.fields ?? {}];
      return Object.keys({ ...before, ...now }).filter((name) => !isSame(before[name], now[name]));
    }),
  );
  const marks = changes.details && !isSame(changes.details.before.marks, changes.details.after.marks);
  const names = namesOfRule(rule);
  const looks = names.some(({ kind, name }) => {
    switch (kind) {
      case 'item':
        return items.has(name);
      case 'group':
        return groups.has(name);
      case 'person':
        return people.has(name);
      case 'section':
        return sections.has(name);
      case 'column':
        return columns.has(name);
      case 'mark':
        return marks === true;
      case 'wording':
        return false;
    }
  });
  return { looks, broken: names.some((named) => !isInCourse(named, after)) };
}
