/** What a course may be called, from what is above a sheet's header, else from its file's name; proposed, never decided. */
import { tidy } from './names.ts';

export interface ProposedCourse {
  readonly code: string;
  readonly title: string;
}

/** “NAV 120”, “MET-115”, “BIO101L” at the beginning of a text. */
const CODE = /^([A-Za-z]{2,5})[ _-]?(\d{2,4}[A-Za-z]?)(?![A-Za-z0-9])/;
/** Words of file names and titles that name no course. */
const NO_NAME = new Set([
  ...[
    'gradebook',
    'grades',
    'grade',
    'grading',
    'export',
    'roster',
    'students',
    'class',
    'list',
    'sheet',
    'copy',
    'final',
  ],
  ...[
    'spring',
    'summer',
    'fall',
    'autumn',
    'winter',
    'semester',
    'term',
    'section',
    'sec',
    'csv',
    'xlsx',
    'of',
    'the',
    'report',
  ],
]);

const isNoName = (word: string): boolean => NO_NAME.has(word.toLowerCase()) || /^\d+$/.test(word);

function nameIn(text: string): ProposedCourse | null {
  const plain = tidy(text.slice(0, 200));
  const found = CODE.exec(plain);
  // “Fall 2026” is a term.
  const [all, letters, digits] = found && !isNoName(found[1]!) ? found : [];
  const rest = tidy((all === undefined ? plain : plain.slice(all.length)).replace(/^[\s:,–-]+/, ''));
  const words = rest.split(' ').filter((word) => word !== '');
  const title = words.every(isNoName)
    ? ''
    : words.filter((word, i) => !(isNoName(word) && words.slice(i).every(isNoName))).join(' ');
  const code = all === undefined ? '' : `${letters!.toUpperCase()} ${digits!.toUpperCase()}`;
  return code === '' && title === '' ? null : { code, title };
}

/** The first title with a code counts, else the first that names anything; the file's name where no title has a code. */
export function proposedCourse(titles: readonly string[], fileName: string): ProposedCourse {
  const stem = fileName
    .replace(/\.[A-Za-z0-9]{1,5}$/, '')
    .split(/[_-]+/)
    .join(' ');
  const found = [...titles.flatMap((text) => nameIn(text) ?? []), ...(nameIn(stem) ? [nameIn(stem)!] : [])];
  const coded = found.find((name) => name.code !== '');
  const titled = found.find((name) => name.title !== '');
  return { code: coded?.code ?? '', title: coded?.title || (titled?.title ?? '') };
}
