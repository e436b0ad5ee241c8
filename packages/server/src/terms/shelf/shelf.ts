/** The shelf itself: what goes on it, what comes off it, and how it would be in a course. */
import type { Actor } from '@zest-bell/core/access';
import { presenceKnown } from '@zest-bell/core/activity';
import type { ShelfItem, ShelfKind } from '@zest-bell/core/exchange';
import { matchesAt } from '@zest-bell/core/rounds';
import { cannotRunWords, parseRule, ruleDocument, ruleSentence, type Rule } from '@zest-bell/core/rules';
import { courseWords, takenFromShelf, withoutCourse, type CourseWord, type ShelfContent } from '@zest-bell/core/shelf';
import { presenceLack } from '@zest-bell/core/starters';
import { textsOf, wordingSchema, type Wording } from '@zest-bell/core/wording';
import { inInstallation } from '../../access/holding.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import type { CourseServices } from '../../course/services.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { insertRow, updateRow } from '../../platform/database/writing.ts';
import { wallClock } from '../../platform/process/clock.ts';
import { RuleRow } from '../../rules/entity.ts';
import { insertRule, ruleOfRow } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { insertWording, wordingOfRow as wordingOf } from '../../wording/repository.ts';
import {
  ShelfCopyRow,
  ShelfItemRow,
  ShelfVersionRow,
  shelfCopyHolds,
  shelfItemHolds,
  shelfVersionHolds,
  type ShelfDocument,
} from './entity.ts';

const FRESH = { disableIdentityMap: true } as const;

interface ForShelf {
  readonly course: number;
  readonly by: Actor;
  readonly kind: ShelfKind;
  readonly key: string;
  readonly note: string;
  /** Of which this is a new version. */
  readonly item?: number | undefined;
  /** A yes to words that may be of the course alone. */
  readonly keepWords: boolean;
}

/** Throws `notForShelf` with what is still of the course, and `notFound`. */
export async function putOnShelf(
  { orm, reading, live }: Pick<CourseServices, 'orm' | 'reading' | 'live'>,
  { course: id, by, kind, key, note, item, keepWords }: ForShelf,
): Promise<{ readonly id: number; readonly version: number }> {
  const em = reading.em.fork();
  const { course } = await live.get(em, id);
  const content = withoutCourse(await contentOf(em, id, kind, key), course);
  mustFitAll([...courseWords(content, course), ...courseWords(textOf(note), course)], keepWords);
  const { timeZone, start, end } = course;
  const document: ShelfDocument = {
    rule: content.rule && ruleDocument(content.rule, timeZone),
    wordings: content.wordings,
    run: { timeZone, start, end },
  };
  const name = nameOfContent(content);
  const at = wallClock();
  return inInstallation(orm, async (tx) => {
    const before = item === undefined ? null : await tx.findOne(ShelfItemRow, { id: item, kind });
    if (item !== undefined && !before) throw new AppError('notFound');
    const version = (before?.version ?? 0) + 1;
    // A new version is offered again.
    if (before) await updateRow(tx, shelfItemHolds, before, { version, name, retiredAt: null });
    const row = before ?? (await insertRow(tx, shelfItemHolds, { kind, name, version, retiredAt: null }));
    await insertRow(tx, shelfVersionHolds, { item: row.id, version, note, document, by, at });
    return { id: row.id, version };
  });
}

/** Takes what is offered as a draft of a course. Throws `notFound`. */
export async function takeFromShelf(
  tx: Tx<'course'>,
  { live, clock }: Pick<CourseServices, 'live' | 'clock'>,
  { course: id, account, item }: { readonly course: number; readonly account: number; readonly item: number },
): Promise<{ readonly kind: ShelfKind; readonly key: string }> {
  const { row, document } = await offered(tx, item);
  const course = await live.get(tx, id);
  const into = { course: course.course, ...(await courseParts(tx, id)) };
  const taken = takenFromShelf(contentIn(document), document.run, into);
  for (const wording of taken.wordings) await insertWording(tx, id, wording);
  if (taken.rule) await insertRule(tx, course, taken.rule, account, clock.now());
  const { kind, version } = row;
  const key = taken.rule?.id ?? taken.first!;
  await keepCopy(tx, { course: id, kind, key, item, version });
  return { kind, key };
}

/** From now on something of the course counts as a copy. */
export async function keepCopy(tx: Tx<'course'>, copy: Omit<ShelfCopyRow, 'id'>): Promise<void> {
  const { course, kind, key, item, version } = copy;
  const known = await tx.findOne(ShelfCopyRow, { course, kind, key });
  if (known) await updateRow(tx, shelfCopyHolds, known, { item, version });
  else await insertRow(tx, shelfCopyHolds, { course, kind, key, item, version });
}

const textOf = (note: string): ShelfContent => ({
  rule: null,
  wordings: [wordingSchema.parse({ id: 'note', name: 'note', purpose: 'support', subject: 'note', text: note })],
});

export const nameOfContent = ({ rule, wordings }: ShelfContent): string => rule?.name ?? wordings[0]!.name;

/** Throws `notForShelf` with each word of the course, at its place. */
function mustFitAll(words: readonly CourseWord[], keepWords: boolean): void {
  const open = words.filter((w) => !w.mayStay || !keepWords);
  if (open.length === 0) return;
  throw new AppError(
    'notForShelf',
    open.map(({ path, kind, found }) => ({ path, code: kind, message: `“${found}” belongs to this course` })),
  );
}

/** A rule with the texts that it uses, or a text, as it is saved. Throws `notFound`. */
export async function contentOf(em: Em, course: number, kind: ShelfKind, key: string): Promise<ShelfContent> {
  const rule = kind === 'rule' ? await em.findOne(RuleRow, { course, key }, FRESH) : null;
  if (kind === 'rule' && !rule) throw new AppError('notFound');
  const own = rule && ruleOfRow(rule);
  const keys = own ? [...new Set(own.steps.map((s) => s.wording))] : [key];
  const rows = await em.find(WordingRow, { course, key: { $in: keys } }, FRESH);
  if (rows.length < keys.length) throw new AppError('notFound');
  return { rule: own, wordings: keys.map((k) => wordingOf(rows.find((r) => r.key === k)!)) };
}

/** The document of the last version of each thing, by its id. */
export async function lastDocuments(
  em: Em,
  items: readonly Pick<ShelfItemRow, 'id' | 'version'>[],
): Promise<ReadonlyMap<number, ShelfDocument>> {
  if (items.length === 0) return new Map();
  const last = items.map(({ id, version }) => ({ item: id, version }));
  const rows = await em.find(ShelfVersionRow, { $or: last }, { ...FRESH, fields: ['item', 'document'] });
  return new Map(rows.map((r) => [r.item, r.document]));
}

/** Throws `notFound` for what is not there, or no longer offered. */
async function offered(em: Em, item: number): Promise<{ row: ShelfItemRow; document: ShelfDocument }> {
  const row = await em.findOne(ShelfItemRow, { id: item, retiredAt: null }, FRESH);
  const last = row && (await em.findOne(ShelfVersionRow, { item, version: row.version }, FRESH));
  if (!row || !last) throw new AppError('notFound');
  return { row, document: last.document };
}

function contentIn({ rule, wordings }: ShelfDocument): { rule: Rule | null; wordings: Wording[] } {
  const parsed = rule && parseRule(rule);
  if (parsed && !parsed.ok) throw new Error('A rule on the shelf cannot be read');
  return { rule: parsed ? parsed.value : null, wordings: wordings.map((w) => wordingSchema.parse(w)) };
}

interface ShelfTarget {
  readonly wordings: readonly Wording[];
  readonly rules: ReadonlySet<string>;
}

export async function courseParts(em: Em, course: number): Promise<ShelfTarget> {
  const wordings = await em.find(WordingRow, { course }, FRESH);
  const rules = await em.find(RuleRow, { course }, { ...FRESH, fields: ['key'] });
  return { wordings: wordings.map(wordingOf), rules: new Set(rules.map((r) => r.key)) };
}

/** How something of the shelf would be in a course: by the code that takes it. */
export function asInCourse(
  document: ShelfDocument,
  { course, facts }: LiveCourse,
  there: ShelfTarget,
  now: number,
): Pick<ShelfItem, 'sentence' | 'matching' | 'needs' | 'text'> {
  const { rule, wordings } = contentIn(document);
  const text = wordings.flatMap(textsOf)[0]?.text ?? '';
  if (!rule) return { sentence: null, matching: 0, needs: null, text };
  const taken = takenFromShelf({ rule, wordings }, document.run, { course, ...there }).rule!;
  const lacks = cannotRunWords(taken, course);
  const presence = presenceLack(taken, presenceKnown(facts.history));
  const needs =
    lacks !== null
      ? `${lacks[0]!.toUpperCase()}${lacks.slice(1)}.`
      : presence === null
        ? null
        : `This course has no ${presence}.`;
  if (needs !== null) return { sentence: null, matching: 0, needs, text };
  return { sentence: ruleSentence(taken, course), matching: matchesAt(taken, facts, now).length, needs, text };
}
