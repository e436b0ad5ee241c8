/** Something from the shelf as a draft of a course: its dates moved by whole weeks, its texts under ids that are free there. */
import { carryRule } from '../carry/rules.ts';
import { shiftBetween } from '../carry/shift.ts';
import { carryWordings } from '../carry/wordings.ts';
import { makeCourse, type Course } from '../course/course.ts';
import { freeId } from '../course/freeId.ts';
import type { Rule } from '../rules/rule.ts';
import type { Wording } from '../wording/wording.ts';
import type { ShelfContent } from './courseWords.ts';

/** When the course that it was made in ran, as engine K1 needs it. */
export interface ShelfRun {
  readonly timeZone: string;
  readonly start: string;
  readonly end: string;
}

export interface TakenFromShelf {
  readonly rule: Rule | null;
  /** Those that the course does not have yet. */
  readonly wordings: readonly Wording[];
  /** The id of the first of its texts, in the course. */
  readonly first: string | null;
}

export interface CourseToFill {
  readonly course: Course;
  readonly wordings: readonly Wording[];
  /** Ids of its rules, the archived ones included. */
  readonly rules: ReadonlySet<string>;
}

export function takenFromShelf({ rule, wordings }: ShelfContent, run: ShelfRun, into: CourseToFill): TakenFromShelf {
  const source = makeCourse({ ...NOTHING, ...run });
  const carried = carryWordings(wordings, into.wordings, { source, items: new Map() });
  const there = new Map(carried.map((c) => [c.from, c.wording.id]));
  const moved =
    rule &&
    carryRule(
      rule,
      freeId(rule.id, (id) => into.rules.has(id)),
      { shift: shiftBetween(source, into.course), source, target: into.course, items: new Map() },
    ).rule;
  return {
    rule: moved && { ...moved, steps: moved.steps.map((s) => ({ ...s, wording: there.get(s.wording) ?? s.wording })) },
    wordings: carried.filter((c) => !c.isThere).map((c) => c.wording),
    first: carried[0]?.wording.id ?? null,
  };
}

const NOTHING = {
  code: 'shelf',
  title: 'shelf',
  breaks: [],
  groupWeights: null,
  marks: {},
  settings: { quietHours: null, budget: null },
  people: [],
  items: [],
} as const;
