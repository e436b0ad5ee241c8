/** A wording read for every student before it is saved or sent, and the students that put a text to the hardest test. */
import type { Problem } from '@zest-bell/core/problem';
import { MINUTE, type WorkInParts, type Instant } from '@zest-bell/core/time';
import { fullName, isActiveStudent, type Person } from '@zest-bell/core/course';
import type { FieldSubject, CompiledWording } from '@zest-bell/core/wording';
import type { AwkwardAnswer } from '@zest-bell/core/exchange';
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { LiveCourse } from '../course/activity/live.ts';
import { AppError } from '../platform/errors/errors.ts';

export interface TextToTry {
  readonly variant: number;
  readonly reader: string;
  readonly about: FieldSubject;
  readonly at: Instant;
}

/** More names than this help nobody; the number of them is told. */
const MOST_NAMES = 50;

/** How many texts are read before other requests get their turn. */
const SLICE = 50;

/** What was read last with each wording, and found to be right: the same course, condition and minute. */
const readRight = new WeakMap<CompiledWording, string>();

/**
 * Reads every text of a wording for every active student. Throws `wordingBroken` with the text and the student at the
 * first that cannot be made: nothing is saved or turned on that would fail when it is sent.
 */
export async function mustReadForAll(
  wording: CompiledWording,
  { course, facts, row, sender }: LiveCourse,
  about: FieldSubject,
  at: Instant,
): Promise<void> {
  const state = [
    row.id,
    row.version,
    facts.history.version,
    Math.floor(at / MINUTE),
    JSON.stringify([about, sender]),
  ].join(' ');
  if (readRight.get(wording) === state) return;
  const texts: { variant: number; reader: string }[] = [
    ...Array.from({ length: wording.count }, (_, variant) => ({ variant, reader: 'student' })),
    ...(wording.wording.copies ?? []).map(({ to }) => ({
      variant: 0,
      reader: to === 'anyone' ? 'contact:anyone' : to,
    })),
  ];
  let read = 0;
  for (const [index, person] of course.people.entries()) {
    if (!isActiveStudent(person)) continue;
    for (const { variant, reader } of texts) {
      const name = reader === 'student' ? undefined : { name: 'colleague' };
      const context = { facts, person: index, sender, about, at, reader: name };
      const message = wording.render(context, variant, reader);
      if (!message.ok) throw brokenFor(person, message.problems);
      if (++read % SLICE === 0) await nextTurn();
    }
  }
  readRight.set(wording, state);
}

const brokenFor = (person: Person, problems: readonly Problem[]): AppError =>
  new AppError(
    'wordingBroken',
    problems.map((p) => ({ ...p, message: `${p.message} (with the values of ${fullName(person)})` })),
  );

/** A part for each student. */
export function* awkwardFor(
  wording: CompiledWording,
  { course, facts, sender }: LiveCourse,
  order: TextToTry,
): WorkInParts<AwkwardAnswer> {
  const { variant, about, at } = order;
  const students = course.people.flatMap((person, index) => (isActiveStudent(person) ? [{ person, index }] : []));
  const reader = order.reader === 'student' ? undefined : { name: 'colleague' };
  const blank: { student: string; fields: readonly string[] }[] = [];
  for (const { person, index } of students) {
    const seenBy = { facts, person: index, sender, about, at, reader };
    const message = wording.render(seenBy, variant, order.reader);
    if (!message.ok) throw brokenFor(person, message.problems);
    const { blanks } = message.value;
    if (blanks.length > 0) blank.push({ student: person.id, fields: blanks });
    yield;
  }
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
    [people.find((p) => p.id === worst?.student), 'the most empty fields'],
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

function most(people: readonly Person[], measure: (person: Person) => number): Person | undefined {
  return [...people].sort((a, b) => measure(b) - measure(a))[0];
}
