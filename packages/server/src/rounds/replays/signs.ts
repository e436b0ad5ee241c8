/** Signs: what told early whom one worries about; and what a threshold would have found. Nothing of it is sent or saved. */
import { parseCondition, namesOfCondition, isLeaf, type Condition, type Leaf } from '@zest-bell/core/conditions';
import { conditionElsewhere, elsewhere } from '@zest-bell/core/carry';
import { isActiveStudent, type Course } from '@zest-bell/core/course';
import { DEFAULT_WORRY, FEWEST, signsInParts, signStudents, type SignsOf } from '@zest-bell/core/outcomes';
import type { SignsAnswer, SignsWith, ThresholdHint } from '@zest-bell/core/exchange';
import { problemsOfNames } from '@zest-bell/core/rules';
import { DAY, type Instant, type WorkInParts } from '@zest-bell/core/time';
import { contract, SENT } from '@zest-bell/core/contract';
import { coursesWhere } from '../../access/permissions.ts';
import type { Door } from '../../access/door.ts';
import { bumpVersions } from '../../course/versions.ts';
import { courseHolds } from '../../course/entity.ts';
import { inCourse } from '../../course/lock.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { lineWriter } from '../../platform/http/http.ts';
import type { RoundServices } from '../services.ts';
import { updateRows } from '../../platform/database/writing.ts';

/** How long before now a threshold is tried, in ms: early enough that something could have been done. */
const EARLIER = 14 * DAY;

/** A condition that fits a course. Throws `invalidInput`. */
export function conditionIn(course: Course, said: unknown, path: string): Condition {
  const condition = parseCondition(said, path);
  if (!condition.ok) throw new AppError('invalidInput', condition.problems);
  const problems = problemsOfNames(namesOfCondition(condition.value, path), course);
  if (problems.length > 0) throw new AppError('invalidInput', problems);
  return condition.value;
}

export function signRoutes(door: Door, { orm, reading, live, clock, replays, longWork }: RoundServices): void {
  /** What is asked for, of the course as it is now. Throws `invalidInput` where signs are not read before the outcome. */
  async function asked(em: Em, id: number, said: { outcome: unknown; at: number; by: number }) {
    const { course, facts } = await live.get(em, id);
    const outcome = conditionIn(course, said.outcome, 'outcome');
    // What has not happened yet is no hindsight.
    const at = Math.min(said.at, clock.now());
    if (said.by >= at)
      throw new AppError('invalidInput', [
        {
          path: 'by',
          code: 'range',
          message: 'Choose a week that lies before the day on which it is known how it turned out',
        },
      ]);
    return { course, of: { facts, outcome, at, by: said.by } satisfies SignsOf };
  }

  door.on(contract.rounds.signs, async ({ course: id, body: { with: others, ...said }, account, res }) => {
    const em = reading.em.fork();
    const { of } = await asked(em, id, said);
    if (others.length === 0) {
      const { facts, ...order } = of;
      await replays.tell(account, res, 'signs', facts, order);
      return SENT;
    }
    const mine = new Set(await coursesWhere(em, account, 'course.read'));
    const all: SignsOf[] = [of];
    const counted: SignsWith[] = [];
    for (const course of new Set(others)) {
      if (course === id || !mine.has(course)) throw new AppError('notFound');
      const there = inAnother(of, (await live.get(em, course)).facts, clock.now());
      if (there) all.push(there);
      counted.push({ course, students: there && there.facts.course.people.filter(isActiveStudent).length });
    }
    // Courses of several lie in this process alone: in parts, between which others have their turn.
    const write = lineWriter(res);
    const told = await longWork.run(account, res, () => signsWith(all, of, counted));
    write(JSON.stringify({ answer: told }));
    res.end();
    return SENT;
  });

  door.on(contract.rounds.signStudents, async ({ course: id, body: { when, ...said } }) => {
    const { course, of } = await asked(reading.em.fork(), id, said);
    return signStudents(of, conditionIn(course, when, 'when'));
  });

  door.on(contract.rounds.thresholdHint, async ({ course: id, body: { when, values } }) => {
    const { course, facts, row } = await live.get(reading.em.fork(), id);
    const condition = conditionIn(course, when, 'when');
    if (!isLeaf(condition)) throw new AppError('invalidInput', [NO_LEAF]);
    const at = Math.min(clock.now(), course.calendar.end);
    const by = at - EARLIER;
    if (by <= course.calendar.start) return null;
    return hintOf({ facts, outcome: row.worry ?? DEFAULT_WORRY, at, by }, condition, values);
  });

  door.on(contract.rounds.setWorry, async ({ course: id, body }) => {
    const { course } = await live.get(reading.em.fork(), id);
    const worry = conditionIn(course, body.outcome, 'outcome');
    await inCourse(orm, id, async (tx) => {
      await updateRows(tx, courseHolds, { id }, { worry });
      await bumpVersions(tx, id);
    });
  });
}

const NO_LEAF = { path: 'when', code: 'group', message: 'Name a single comparison' };

/** The same question of another course: the same days after its start. Null where it has nothing like it, or has not come so far. */
function inAnother(of: SignsOf, facts: SignsOf['facts'], now: Instant): SignsOf | null {
  const [own, other] = [of.facts.course, facts.course];
  const there = elsewhere(own, other);
  const outcome = conditionElsewhere(of.outcome, there);
  const days = Math.round((of.by - own.calendar.start) / DAY);
  const by = other.calendar.addDays(other.calendar.start, days);
  const at = Math.min(now, other.calendar.end);
  return outcome === null || by >= at ? null : { facts, outcome, at, by, callHere: there };
}

function* signsWith(
  all: readonly SignsOf[],
  { at, by }: SignsOf,
  counted: readonly SignsWith[],
): WorkInParts<SignsAnswer> {
  return { ...(yield* signsInParts(all)), at, by, with: counted };
}

/** Null where too few say anything. */
function hintOf(of: SignsOf, leaf: Leaf, values: readonly number[]): ThresholdHint | null {
  const told = values.map((value) => {
    const cells = signStudents(of, { ...leaf, value }).map((s) => s.cell);
    const count = (cell: string) => cells.filter((c) => c === cell).length;
    const [found, needless] = [count('found'), count('needless')];
    return { value, found, needless, worried: found + count('missed'), well: needless + count('leftAlone') };
  });
  const [first] = told;
  if (!first || first.worried < FEWEST || first.well < FEWEST) return null;
  const { worried, well } = first;
  return { by: of.by, worried, well, values: told.map(({ value, found, needless }) => ({ value, found, needless })) };
}
