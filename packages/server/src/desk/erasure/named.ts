/** Where a person is named: in a text, by the places that hold ids, and in values that somebody chose. */
import type { Person } from '@zest-bell/core/course';

export type Known = Pick<Person, 'id' | 'email' | 'firstName' | 'lastName' | 'contacts'>;

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
/** Standing alone, and not within a longer word or number. */
const alone = (text: string): RegExp => new RegExp(`(?<![\\p{L}\\d_.@-])${escaped(text)}(?![\\p{L}\\d_@-])`, 'iu');

/** A short id of digits or letters alone is any number or word: in free text it tells nobody, and is looked for where ids stand. */
const tells = (id: string): boolean => (/\d/.test(id) && /\p{L}/u.test(id)) || id.length >= 5;

/** Whether a text names them: by id, address, or whole name. */
export function namedIn({ id, email, firstName, lastName, contacts }: Known): (text: string) => boolean {
  const addresses = [email, ...contacts.map((c) => c.email)];
  const said = [...addresses, `${firstName} ${lastName}`.trim(), tells(id) ? id : ''].flatMap((t) =>
    t ? [alone(t)] : [],
  );
  return (text) => said.some((pattern) => pattern.test(text));
}

/** A value without what names them: entries by their key or their value, and members of lists. */
export function withoutNamed<T>(value: T, isNamed: (text: string) => boolean): T {
  const isGone = (v: unknown) => typeof v === 'string' && isNamed(v);
  const clean = (v: unknown): unknown => {
    if (Array.isArray(v)) return v.filter((member) => !isGone(member)).map(clean);
    if (typeof v !== 'object' || v === null) return v;
    return Object.fromEntries(
      Object.entries(v).flatMap(([key, of]) => (isNamed(key) || isGone(of) ? [] : [[key, clean(of)]])),
    );
  };
  return clean(value) as T;
}
