/** A file read against a course: what it would change, before anything does. A computation alone, for a thread of its own. */
import { latestActAt } from '@zest-bell/core/activity';
import type { WorkInParts, Instant } from '@zest-bell/core/time';
import {
  changeLines,
  diffCoursesInParts,
  type ChangeLine,
  type Course,
  type CourseChanges,
  type CourseParts,
} from '@zest-bell/core/course';
import {
  courseDraft,
  draftedCourse,
  importFileInParts,
  type CourseMeanings,
  type ImportDraft,
  type FileInput,
  type ImportDecisions,
  type KnownFacts,
  type ReadFile,
} from '@zest-bell/core/imports';

export interface HowToRead {
  readonly decisions: ImportDecisions;
  /** When it was brought: what has no instant happened then. */
  readonly at: Instant;
  readonly now: Instant;
  /** Keys of facts that were taken back, which no file brings again. */
  readonly retracted: ReadonlySet<string>;
}

/** The course that a file is read against, with what is known of it. */
export interface CourseToReadAgainst {
  readonly course: Course;
  readonly known: KnownFacts;
  readonly meanings: CourseMeanings;
}

/** Throws `UnreadableFile`. */
export function* readImport(
  to: CourseToReadAgainst,
  file: FileInput,
  order: HowToRead,
): WorkInParts<{
  readonly report: ReadFile;
  readonly draft: ImportDraft;
  readonly after: CourseParts;
  readonly changes: CourseChanges;
  readonly lines: LinesOfChanges;
}> {
  const { decisions } = order;
  const { course, meanings } = to;
  const draft = courseDraft(course, { ...to.known, retracted: order.retracted }, latestActAt(order.now));
  const report = yield* importFileInParts(file, draft, {
    ...decisions,
    asOf: decisions.asOf ?? order.at,
    add: additionsOf(decisions, course),
    verbs: meanings.verbs,
    choices: {
      people: { ...meanings.people, ...decisions.choices?.people },
      items: { ...meanings.items, ...decisions.choices?.items },
      over: decisions.choices?.over,
    },
  });
  if (decisions.missing === 'inactive') {
    const missing = new Set(report.missing);
    for (const person of draft.json.people) if (missing.has(person.id)) person.active = false;
  }
  const after = draftedCourse(draft, course);
  const changes = yield* diffCoursesInParts(course, after);
  const lines = changeLines(changes, { timeZone: course.timeZone, people: after.people });
  return { report, draft, after, changes, lines: { first: lines.slice(0, MOST_LINES), count: lines.length } };
}

/** Lines of a preview that are shown; the others are counted. */
export const MOST_LINES = 200;
export interface LinesOfChanges {
  readonly first: readonly ChangeLine[];
  readonly count: number;
}

/** Which missing people and items are added: as chosen, or by default while the course has none of that sort. */
export const additionsOf = (
  { add }: ImportDecisions,
  { people, items }: Pick<Course, 'people' | 'items'>,
): { readonly people: boolean; readonly items: boolean } => ({
  people: add?.people ?? !people.some((p) => p.role === 'student'),
  items: add?.items ?? items.length === 0,
});
