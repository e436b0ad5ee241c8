/** What of a rule and its texts belongs to one course: nothing of it goes on a shelf that every course takes from. */
import { findsIn, type FindKind, type Finding } from '../carry/finds.ts';
import { eachText, withChips } from '../carry/wordings.ts';
import type { Course } from '../course/course.ts';
import { namesOfRule } from '../rules/names.ts';
import type { Rule } from '../rules/rule.ts';
import type { Wording } from '../wording/wording.ts';

/** What is offered to all courses: a rule with its texts, or a text alone. */
export interface ShelfContent {
  readonly rule: Rule | null;
  readonly wordings: readonly Wording[];
}

export type CourseWordKind = FindKind | 'person' | 'address' | 'item' | 'group' | 'section' | 'file';

export interface CourseWord {
  readonly kind: CourseWordKind;
  /** `rule.name`, `rule.when.item`, `wordings[0].text`. */
  readonly path: string;
  /** The sentence around it, in a text. */
  readonly before: string;
  readonly found: string;
  readonly after: string;
  /** Whether somebody may say that it fits any course: never for people, addresses, files, and what a rule names. */
  readonly mayStay: boolean;
}

/** An address of mail; from memory, not all of RFC 5322. */
const ADDRESS = /[\w.+%-]+@[\w-]+(?:\.[\w-]+)+/g;
/** A chip that names an item. */
const ITEM_CHIP = /\b(?:link|due)\[(?:"([^"\\]*)"|'([^'\\]*)')\]/g;
/** Shorter titles are words that mean something else as well. */
const SHORTEST_TITLE = 4;

/** As it would go on the shelf: the course's title and code become chips. */
export function withoutCourse({ rule, wordings }: ShelfContent, course: Course): ShelfContent {
  const finding = findingOf(course);
  return {
    rule: rule && { ...rule, status: 'draft', spellsFrom: null, note: '' },
    wordings: wordings.map((wording) => {
      const found: { path: string; finds: ReturnType<typeof findsIn> }[] = [];
      eachText(wording, (text, path) => {
        found.push({ path, finds: findsIn(text, finding).filter((f) => f.field !== null) });
        return text;
      });
      return withChips(wording, found);
    }),
  };
}

/** What is still of the course, in the order of the rule and its texts. */
export function courseWords(content: ShelfContent, course: Course): CourseWord[] {
  const { rule, wordings } = content;
  const words: CourseWord[] = [];
  if (rule) {
    for (const part of ['name', 'label'] as const) words.push(...inText(rule[part], `rule.${part}`, course));
    words.push(...namedBy(rule, course));
  }
  for (const [i, wording] of wordings.entries()) {
    words.push(...inText(wording.name, `wordings[${i}].name`, course));
    eachText(wording, (text, path) => {
      words.push(...inText(text, `wordings[${i}].${path}`, course));
      return text;
    });
    for (const [n, file] of (wording.files ?? []).entries())
      words.push(fixed('file', `wordings[${i}].files[${n}]`, file.name));
  }
  return words;
}

const fixed = (kind: CourseWordKind, path: string, found: string): CourseWord => ({
  kind,
  path,
  before: '',
  found,
  after: '',
  mayStay: false,
});

/** Items, groups, sections, people, and addresses that a rule names. */
function namedBy(rule: Rule, course: Course): CourseWord[] {
  const titleOf = (id: string) => course.items[course.itemIndex.get(id) ?? -1]?.title ?? id;
  const named = namesOfRule(rule, 'rule').flatMap(({ kind, name, path }): CourseWord[] => {
    if (kind === 'item') return [fixed('item', path, titleOf(name))];
    if (kind === 'person') return [fixed('person', path, nameOfPerson(course, name))];
    return kind === 'group' || kind === 'section' ? [fixed(kind, path, name)] : [];
  });
  const addresses = rule.steps.flatMap(({ to }, i) =>
    to.flatMap((t) =>
      t.startsWith('address:') ? [fixed('address', `rule.steps[${i}].to`, t.slice('address:'.length))] : [],
    ),
  );
  return [...named, ...addresses];
}

function nameOfPerson(course: Course, id: string): string {
  const person = course.people[course.personIndex.get(id) ?? -1];
  return person ? `${person.firstName} ${person.lastName}`.trim() : id;
}

const findingOf = (course: Course): Finding => ({ source: course, items: new Map() });

function inText(text: string, path: string, course: Course): CourseWord[] {
  const taken: CourseWord[] = findsIn(text, findingOf(course)).map(({ kind, before, found, after }) => ({
    kind,
    path,
    before,
    found,
    after,
    mayStay: true,
  }));
  const at = (found: string, index: number, kind: CourseWordKind, mayStay: boolean): CourseWord => ({
    kind,
    path,
    before: text.slice(Math.max(0, index - 40), index),
    found,
    after: text.slice(index + found.length, index + found.length + 40),
    mayStay,
  });
  const lower = text.toLowerCase();
  for (const { firstName, lastName } of course.people) {
    const name = `${firstName} ${lastName}`.trim();
    const index = name.includes(' ') ? wholeAt(lower, name.toLowerCase()) : -1;
    if (index >= 0) taken.push(at(text.slice(index, index + name.length), index, 'person', false));
  }
  for (const m of text.matchAll(ITEM_CHIP)) {
    const id = m[1] ?? m[2] ?? '';
    const title = course.items[course.itemIndex.get(id) ?? -1]?.title ?? id;
    taken.push({ ...at(m[0], m.index, 'item', false), found: title });
  }
  for (const m of text.matchAll(ADDRESS)) taken.push(at(m[0], m.index, 'address', false));
  for (const { title } of course.items) {
    const index = title.length < SHORTEST_TITLE ? -1 : wholeAt(lower, title.toLowerCase());
    if (index >= 0) taken.push(at(text.slice(index, index + title.length), index, 'item', true));
  }
  return taken;
}

/** Where a text is in another as whole words; -1 for nowhere. */
function wholeAt(text: string, wanted: string): number {
  const isLetter = (c: string | undefined) => c !== undefined && /[\p{L}\p{N}]/u.test(c);
  for (let i = text.indexOf(wanted); i >= 0; i = text.indexOf(wanted, i + 1))
    if (!isLetter(text[i - 1]) && !isLetter(text[i + wanted.length])) return i;
  return -1;
}
