/** Which class of a service is which course: proposed by code and title, and left to a person where two would fit alike. */
import type { NamedCourse, ProposedClass } from './exchange.ts';

/** A class as a OneRoster service names it; null for what has no id. Whatever else is missing refuses nothing. */
function classOf(value: unknown): Omit<ProposedClass, 'course'> | null {
  const said = new Map(Object.entries(typeof value === 'object' && value !== null ? value : {}));
  const text = (name: string): string => {
    const of: unknown = said.get(name);
    return typeof of === 'string' ? of.trim() : '';
  };
  if (text('sourcedId') === '' || text('status').toLowerCase() === 'tobedeleted') return null;
  return { id: text('sourcedId'), code: text('classCode'), title: text('title') };
}

/** Letters and digits alone: “NAV-120” and “nav 120” are one code. */
const plain = (text: string): string =>
  text
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '');

/** How well a class fits a course: its code before its title, both best; 0 where neither does. */
function fit(of: Omit<ProposedClass, 'course'>, course: NamedCourse): number {
  const [code, title] = [plain(course.code), plain(course.title)];
  const byCode = code !== '' && plain(of.code) === code ? 4 : 0;
  const byTitle = title !== '' && plain(of.title) === title ? 2 : 0;
  // Many services write the code before the title.
  const inTitle = byCode === 0 && code !== '' && plain(of.title) === `${code}${title}` ? 5 : 0;
  return byCode + byTitle + inTitle;
}

/** Each course is proposed once at most, and only where no other class fits it, and no other course fits the class, as well. */
export function proposeClasses(classes: readonly unknown[], courses: readonly NamedCourse[]): ProposedClass[] {
  const named = classes.flatMap((c) => classOf(c) ?? []);
  const only = <T>(all: readonly T[], how: (one: T) => number): T | null => {
    const best = Math.max(0, ...all.map(how));
    const fitting = best === 0 ? [] : all.filter((one) => how(one) === best);
    return fitting.length === 1 ? fitting[0]! : null;
  };
  return named.map((of) => {
    const course = only(courses, (c) => fit(of, c));
    const isMutual = course !== null && only(named, (other) => fit(other, course)) === of;
    return { ...of, course: isMutual ? course.id : null };
  });
}
