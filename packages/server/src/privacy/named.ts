/** Where a person is named: in a text, by the places that hold ids, and in values that somebody chose. */
import type { Person } from '@zest-bell/core/course';
import type { ErasedStudent } from '../platform/database/holds.ts';

export type PersonIdentifiers = Pick<Person, 'id' | 'email' | 'firstName' | 'lastName' | 'contacts'>;

/** The words that replace a name in a text. */
const NOBODY = 'a student';

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
/** Standing alone, and not within a longer word or number. */
const alone = (text: string): string => `(?<![\\p{L}\\d_.@-])${escaped(text)}(?![\\p{L}\\d_@-])`;

/** A short id of digits or letters alone is any number or word: in free text it tells nobody, and is looked for where ids stand. */
const tells = (id: string): boolean => (/\d/.test(id) && /\p{L}/u.test(id)) || id.length >= 5;

/** What names them in a text: an id, addresses, the whole name. */
function namesOf({ id, email, firstName, lastName, contacts }: PersonIdentifiers): string[] {
  const addresses = [email, ...contacts.map((c) => c.email)];
  return [...addresses, `${firstName} ${lastName}`.trim(), tells(id) ? id : ''].filter((name): name is string =>
    Boolean(name),
  );
}

/** Null for what cannot be named. */
const patternOf = (names: readonly string[]): RegExp | null =>
  names.length === 0 ? null : new RegExp(names.map(alone).join('|'), 'giu');

const isAscii = (text: string): boolean => !/[^\0-\x7f]/.test(text);

/** Whether a text names them: by id, address, or whole name. */
export function namedIn(known: PersonIdentifiers): (text: string) => boolean {
  const names = namesOf(known);
  const pattern = patternOf(names);
  if (pattern === null) return () => false;
  const small = names.map((name) => name.toLowerCase());
  const areAscii = names.every(isAscii);
  // The pattern is slow, and most texts do not contain the letters at all. Outside ASCII the pattern takes more letters for the same than
  // lowercase does, so that it alone decides there.
  const mayName = (text: string): boolean => {
    if (!areAscii || !isAscii(text)) return true;
    const lower = text.toLowerCase();
    return small.some((name) => lower.includes(name));
  };
  return (text) => mayName(text) && text.search(pattern) >= 0;
}

/** `calledElsewhere`: what platforms and sources call them. */
export function erasedStudent(
  known: PersonIdentifiers,
  standsAs: string,
  calledElsewhere: ReadonlySet<string>,
): ErasedStudent {
  const pattern = patternOf(namesOf(known));
  const isNamed = namedIn(known);
  return {
    id: known.id,
    standsAs,
    isNamed,
    isThem: (text) => text === known.id || isNamed(text),
    isCalled: (id) => calledElsewhere.has(id) || calledElsewhere.has(id.toLowerCase()),
    redacted: (text) => (pattern && isNamed(text) ? text.replace(pattern, NOBODY) : text),
  };
}
