/** Whom signs are read of, and how it turned out for them (engine S1); of one course, or of several that are counted together. */
import type { Condition } from '../../conditions/condition.ts';
import { sidesOf } from '../../conditions/evaluate.ts';
import { storyStart } from '../../course/course.ts';
import { isActiveStudent } from '../../course/person.ts';
import type { Facts } from '../../measures/facts/facts.ts';
import type { MeasureCall } from '../../measures/values/measure.ts';
import type { Instant } from '../../time/instant.ts';
import { contains } from '../../time/stretches.ts';

/** A course with when its outcome and its signs are read. */
export interface SignsOf {
  readonly facts: Facts;
  readonly outcome: Condition;
  /** When the outcome is read; it may lie after the course's end. */
  readonly at: Instant;
  /** When the signs are read: before `at`. */
  readonly by: Instant;
  /** The same measure as this course has it, where another one's signs are asked for; null where it has nothing like it. */
  readonly callHere?: (call: MeasureCall) => MeasureCall | null;
}

/** What a population is cut in, each part judged by what the others taught (engine S4). */
export const FOLDS = 5;
/** Fewer than so many of either kind say nothing. */
export const FEWEST = 5;

export interface SampleMember {
  /** The place of the course, and of the person in its roster. */
  readonly course: number;
  readonly person: number;
  readonly worried: boolean;
  /** Which fifth they are in. */
  readonly fold: number;
}

export interface Population {
  readonly members: readonly SampleMember[];
  /** By the place in `members`: 1 for worried about, 0 for well; and the fifth. */
  readonly kinds: Uint8Array;
  readonly folds: Uint8Array;
  /** The place of the course, and of the person in its roster. */
  readonly courseOf: Uint16Array;
  readonly personOf: Uint32Array;
  readonly worried: number;
  readonly well: number;
}

/** In roster order, course after course. Anyone who is in two of the courses, by their address, is in one fold. */
export function populationOf(courses: readonly SignsOf[]): Population {
  const members: SampleMember[] = [];
  const folds = new Map<string, number>();
  for (const [n, { facts, outcome, at, by }] of courses.entries()) {
    const sides = sidesOf(facts, outcome);
    for (const [person, p] of facts.course.people.entries()) {
      if (!isActiveStudent(p) || storyStart(facts.course, p) > by) continue;
      const worried = contains(sides(person, true), at);
      if (!worried && !contains(sides(person, false), at)) continue;
      const who = courses.length === 1 || !p.email ? `${n} ${p.id}` : p.email.toLowerCase();
      if (!folds.has(who)) folds.set(who, folds.size % FOLDS);
      members.push({ course: n, person, worried, fold: folds.get(who)! });
    }
  }
  const kinds = Uint8Array.from(members, (m) => Number(m.worried));
  const worried = kinds.reduce((sum, kind) => sum + kind, 0);
  const byFold = Uint8Array.from(members, (m) => m.fold);
  return {
    members,
    kinds,
    folds: byFold,
    worried,
    well: members.length - worried,
    courseOf: Uint16Array.from(members, (m) => m.course),
    personOf: Uint32Array.from(members, (m) => m.person),
  };
}
