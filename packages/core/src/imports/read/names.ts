/** Names of people as sheets have them ([F5]): in either order, with titles, accents and brackets that play no part. */

export interface PersonName {
  readonly firstName: string;
  readonly lastName: string;
}

/** Longer texts are no names. */
const LONGEST = 200;
const SUFFIXES = new Set(['jr', 'sr', 'ii', 'iii', 'iv', 'v', 'phd', 'md', 'esq']);
const isSuffix = (word: string): boolean => word.length < 8 && SUFFIXES.has(word.replace(/[.\s]/g, '').toLowerCase());

/** One blank for blanks of all kinds. */
export const tidy = (text: string): string =>
  text
    .split(/[\s\u00a0\u2000-\u200b\u202f\u3000]+/)
    .join(' ')
    .trim();

/** What is in brackets at the end of a name, and the name before it; innermost last. */
export function bracketsOf(text: string): { readonly name: string; readonly within: readonly string[] } {
  let name = tidy(text);
  if (name.length > LONGEST) return { name, within: [] };
  const within: string[] = [];
  for (;;) {
    const close = name.at(-1);
    const open = close === ')' ? '(' : close === '>' ? '<' : close === ']' ? '[' : null;
    const at = open === null ? -1 : name.lastIndexOf(open);
    if (at < 0) return { name, within };
    within.push(name.slice(at + 1, -1).trim());
    name = name.slice(0, at).trimEnd();
  }
}

/** What in brackets could be an id that a new person gets: it has a digit, and no blank or slash. */
export const looksLikeId = (text: string): boolean => /\d/.test(text) && !/[\s/]/.test(text) && text.length <= LONGEST;

/** First and last name, also of “Okoro, Imani”, “Okoro, Jr., Imani” and “Imani Okoro”; null where neither is there. */
export function nameOf(cells: {
  readonly firstName?: string;
  readonly lastName?: string;
  readonly name?: string;
}): PersonName | null {
  if (cells.firstName || cells.lastName)
    return { firstName: tidy(cells.firstName ?? ''), lastName: tidy(cells.lastName ?? '') };
  const { name } = bracketsOf(cells.name ?? '');
  if (name === '') return null;
  const parts = name.split(',').map((part) => part.trim());
  if (parts.length > 1) {
    const [last = '', ...rest] = parts.filter((part) => part !== '' && !isSuffix(part));
    const suffix = parts.slice(1).find((part) => isSuffix(part));
    if (rest.length > 0) return { firstName: rest.join(' '), lastName: last };
    // “Imani Okoro, Jr.”: nothing but a title is behind the comma.
    return suffix === undefined ? { firstName: '', lastName: last } : split(last);
  }
  return split(name);
}

function split(name: string): PersonName {
  const blank = name.lastIndexOf(' ');
  return blank < 0
    ? { firstName: name, lastName: '' }
    : { firstName: name.slice(0, blank), lastName: name.slice(blank + 1) };
}

/** As names are compared: small letters without accents, single blanks, without titles between commas. */
export function plainName(text: string): string {
  const { name } = bracketsOf(text);
  const parts = name.split(',').filter((part) => !isSuffix(part.trim()));
  return tidy(parts.join(' '))
    .normalize('NFD')
    .replace(/\p{M}+/gu, '')
    .toLowerCase();
}

/** The two orders in which a person's name is looked up. */
export const namesOf = ({ firstName, lastName }: PersonName): readonly [string, string] => [
  plainName(`${firstName} ${lastName}`),
  plainName(`${lastName} ${firstName}`),
];
