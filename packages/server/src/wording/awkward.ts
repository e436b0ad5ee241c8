/** Whom a wording is read for before it is sent: everybody, and by name those at whom a text breaks first. */
import {
  fullName,
  isActiveStudent,
  type About,
  type AwkwardAnswer,
  type CompiledWording,
  type Instant,
  type Person,
} from '@zest-bell/core';
import type { LiveCourse } from '../activity/live.ts';

export interface AwkwardOrder {
  readonly variant: number;
  readonly reader: string;
  readonly about: About;
  readonly at: Instant;
}

/** More names than this help nobody; the number of them is told. */
const MOST_NAMES = 50;

export function awkwardFor(
  wording: CompiledWording,
  { course, facts, row }: LiveCourse,
  order: AwkwardOrder,
): AwkwardAnswer {
  const { variant, about, at } = order;
  const students = course.people.flatMap((person, index) => (isActiveStudent(person) ? [{ person, index }] : []));
  const reader = order.reader === 'student' ? undefined : { name: 'colleague' };
  const blank = students.flatMap(({ person, index }) => {
    const of = { facts, person: index, sender: row.sender, about, at, reader };
    const { blanks } = wording.render(of, variant, order.reader);
    return blanks.length === 0 ? [] : [{ student: person.id, fields: blanks }];
  });
  const neverSeen = students.find(({ index }) => {
    const fact = facts.fact(index, { measure: 'daysSinceVisit' }, at);
    return fact.kind === 'last' && fact.at === null;
  });
  const ungraded = students.find(({ index }) => {
    const fact = facts.fact(index, { measure: 'courseGrade' }, at);
    return fact.kind === 'total' && fact.graded === 0;
  });
  const people = students.map((s) => s.person);
  const worst = [...blank].sort((a, b) => b.fields.length - a.fields.length)[0];
  const found: readonly (readonly [Person | undefined, string])[] = [
    [most(people, (p) => fullName(p).length), 'the longest name'],
    [people.find((p) => p.id === worst?.student), 'the most values missing'],
    [neverSeen?.person, 'no visit ever'],
    [ungraded?.person, 'nothing graded yet'],
    [most(people, (p) => p.enrolledAt), 'joined last'],
    [people.find((p) => p.firstName.trim() === ''), 'no first name'],
    [people.find((p) => !p.email), 'no address'],
    [people.find((p) => p.paused), 'paused nudges'],
  ];
  return {
    read: students.length,
    blank: blank.slice(0, MOST_NAMES),
    awkward: found.flatMap(([person, words]) => (person ? [{ student: person.id, words }] : [])),
  };
}

function most(people: readonly Person[], of: (person: Person) => number): Person | undefined {
  return [...people].sort((a, b) => of(b) - of(a))[0];
}
