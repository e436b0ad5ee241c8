/** The columns of a sheet of people in groups, each with a sentence of what it would bring. */
import { listWords, numberWords, plural } from '@zest-bell/core/time';
import type { ItemKind } from '@zest-bell/core/course';
import type { ImportPreview } from '@zest-bell/core/imports';
import { LEFT_OUT_WORDS } from './kindWords.ts';

const GROUPS = ['person', 'grade', 'attendance', 'doneOn', 'lastSeen', 'own', 'leftOut'] as const;
export type ColumnGroup = (typeof GROUPS)[number];

export const GROUP_NAMES: Readonly<Record<ColumnGroup, string>> = {
  person: 'The person',
  grade: 'Grades',
  attendance: 'Attendance',
  doneOn: 'Done on',
  lastSeen: 'Last seen',
  own: 'Your own columns',
  leftOut: 'Left out',
};

export type SheetColumn = ImportPreview['columns'][number] & { readonly place: number };

/** Columns by their group, in the order of the sheet. */
export function groupsOf(
  seen: ImportPreview,
): { readonly group: ColumnGroup; readonly columns: readonly SheetColumn[] }[] {
  const columns = seen.columns.map((column, place) => ({ ...column, place }));
  return GROUPS.map((group) => ({
    group,
    columns: columns.filter(({ as }) => (as === 'field' ? 'person' : as) === group),
  })).filter(({ columns: own }) => own.length > 0);
}

const KIND_NAMES: Readonly<Record<ItemKind, string>> = {
  assignment: 'assignment',
  quiz: 'quiz',
  forum: 'forum',
  page: 'page',
  practice: 'practice',
  session: 'session',
};

const kindCount = (kind: ItemKind, n: number): string =>
  kind === 'quiz' && n !== 1 ? `${n} quizzes` : kind === 'practice' ? `${n} for practice` : plural(n, KIND_NAMES[kind]);

/** “6 items are new: 4 assignments and 2 quizzes, none has a due date.” */
function newItems(columns: readonly SheetColumn[]): string {
  const fresh = columns.filter((c) => c.isNew);
  if (fresh.length === 0) return '';
  const kinds = new Map<ItemKind, number>();
  for (const { itemKind } of fresh) if (itemKind) kinds.set(itemKind, (kinds.get(itemKind) ?? 0) + 1);
  const words = listWords([...kinds].map(([kind, n]) => kindCount(kind, n)));
  const due = fresh[0]!.as !== 'attendance' ? `, ${fresh.length === 1 ? 'without' : 'none has'} a due date` : '';
  return `${plural(fresh.length, 'item')} ${fresh.length === 1 ? 'is' : 'are'} new: ${words}${due}${inGroups(fresh)}.`;
}

/** “, in the groups Essays and Quizzes”, from the row above the header. */
function inGroups(fresh: readonly SheetColumn[]): string {
  const groups = [...new Set(fresh.flatMap((c) => c.group ?? []))];
  return groups.length === 0 ? '' : `, in the ${groups.length === 1 ? 'group' : 'groups'} ${listWords(groups)}`;
}

/** “Nothing says out of how many points Map quiz is: …” */
function asksPoints(columns: readonly SheetColumn[]): string {
  const asked = columns.filter((c) => c.asksPoints);
  if (asked.length === 0) return '';
  const items = listWords(asked.map((c) => c.item!));
  return `Nothing says out of how many points ${items} ${asked.length === 1 ? 'is' : 'are'}: until you do, no rule can look at a percent of ${asked.length === 1 ? 'it' : 'them'}.`;
}

const counted = (n: number, what: string): string => (n === 0 ? '' : plural(n, what));

/** What a group brings, in a sentence or two. */
export function groupWords(seen: ImportPreview, group: ColumnGroup, columns: readonly SheetColumn[]): string {
  const { tally } = seen;
  const facts = (...parts: readonly string[]) => {
    const said = parts.filter((p) => p !== '');
    return said.length === 0 ? 'Nothing new.' : `${listWords(said)}.`;
  };
  switch (group) {
    case 'person':
      return personWords(seen);
    case 'grade':
      return [
        newItems(columns),
        facts(counted(tally?.grades ?? 0, 'grade'), tally?.excused ? `${tally.excused} excused` : ''),
        asksPoints(columns),
      ]
        .filter(Boolean)
        .join(' ');
    case 'attendance':
      return [
        newItems(columns),
        facts(
          counted(tally?.marks ?? 0, 'mark'),
          // Beside grades, those who are excused are counted there.
          tally?.excused && !seen.columns.some((c) => c.as === 'grade') ? `${tally.excused} excused` : '',
        ),
      ]
        .filter(Boolean)
        .join(' ');
    case 'doneOn':
      return [newItems(columns), facts(tally?.done ? `${plural(tally.done, 'item')} done, each on its day` : '')]
        .filter(Boolean)
        .join(' ');
    case 'lastSeen':
      return `${facts(counted(tally?.seen ?? 0, 'date'))} A list like this says when each student was last seen, not how often they visit.`;
    case 'own':
      return `${listWords(columns.map((c) => c.header))}. Rules and messages can use ${columns.length === 1 ? 'it' : 'them'}.`;
    case 'leftOut':
      return `${columns.map((c) => `${c.header || '(no name)'} (${LEFT_OUT_WORDS[c.leftOut ?? 'told']})`).join(', ')}.`;
  }
}

/** Refusals that leave open whom a row is about. */
const WHO_CODES: ReadonlySet<string> = new Set([
  ...[
    'unknownPerson',
    'ambiguousPerson',
    'twoPeople',
    'twice',
    'noName',
    'address',
    'role',
    'yesNo',
    'formula',
    'error',
  ],
]);

function personWords(seen: ImportPreview): string {
  const { tally, offered, leftOut, differs, cut } = seen;
  const fresh = tally?.people ?? 0;
  // Of a row that is refused nobody knows whether its person is here.
  const isSure = !seen.refused.some((r) => r.row > 1 && WHO_CODES.has(r.code));
  const parts = [
    fresh > 0 && `${plural(fresh, 'person', 'people')} ${fresh === 1 ? 'is' : 'are'} new.`,
    offered.people > 0 &&
      `${plural(offered.people, 'person', 'people')} of this file ${offered.people === 1 ? 'is' : 'are'} not in this course.`,
    fresh + offered.people === 0 && isSure && 'Everybody is in this course already.',
    differs > 0 &&
      `${numberWords(differs)} ${differs === 1 ? 'field differs' : 'fields differ'} from what is known, and ${differs === 1 ? 'stays' : 'stay'} as known.`,
    leftOut > 0 &&
      `${plural(leftOut, 'row')} ${leftOut === 1 ? 'names' : 'name'} nobody and ${leftOut === 1 ? 'is' : 'are'} left out.`,
    cut !== null && 'A second table beside the first is not read.',
  ];
  return parts.filter(Boolean).join(' ');
}
