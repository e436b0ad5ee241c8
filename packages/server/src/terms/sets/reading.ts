/** A set as it is: its copies, what each came from, and what a change of one would do to another. */
import type { Course } from '@zest-bell/core/course';
import type { SetChange, SetLine, SetMember } from '@zest-bell/core/exchange';
import { fullName } from '@zest-bell/core/course';
import { matchesAt } from '@zest-bell/core/rounds';
import type { Rule } from '@zest-bell/core/rules';
import {
  compareParts,
  mergeParts,
  partTitle,
  pickOf,
  ruleOfParts,
  unmatchedItem,
  copyMapping,
  wordingOfParts,
  type PartLine,
  type PartChoices,
  type CopyMapping,
} from '@zest-bell/core/sets';
import type { CarryProblem } from '@zest-bell/core/carry';
import { isActiveStudent } from '@zest-bell/core/course';
import type { Instant } from '@zest-bell/core/time';
import { partsFor, type CoursePermissions } from '../../access/permissions.ts';
import type { LiveCourse, LiveCourses } from '../../course/activity/live.ts';
import type { Em } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { wordingOfRow } from '../../wording/repository.ts';
import {
  documentThere,
  isTextPart,
  partsOf,
  partWords,
  readStored,
  type SetDocument,
} from '../../rules/sets/document.ts';
import { SetMemberRow, SetRow, SetVersionRow } from '../../rules/sets/entity.ts';
import { confirmedMatches } from '../../rules/sets/membership.ts';

/** A copy with its course. */
export interface SetCopy {
  readonly member: SetMemberRow;
  readonly live: LiveCourse;
  readonly part: CoursePermissions;
  readonly document: SetDocument;
  readonly name: string;
  readonly row: RuleRow | WordingRow;
}

/** What one copy would do to another. */
export interface CopyMerge {
  readonly lines: readonly PartLine[];
  /** What would stand there, and the parts that nobody has chosen yet. */
  readonly document: SetDocument;
  readonly open: readonly string[];
  readonly problems: readonly CarryProblem[];
  readonly way: CopyMapping;
}

/** A document in the terms of the course it is of. */
interface CourseDocument {
  readonly document: SetDocument;
  readonly live: LiveCourse;
}

const NAMES_SHOWN = 40;

/** Reads what of sets one account may see; for one request. */
export class SetReading {
  readonly em: Em;
  private readonly live: LiveCourses;
  private readonly account: number;
  private readonly courses = new Map<number, Promise<LiveCourse>>();
  private readonly ways = new Map<string, Promise<CopyMapping>>();
  private links: Promise<WordingLinks> | null = null;
  private access: Promise<ReadonlyMap<number, CoursePermissions>> | null = null;

  constructor(em: Em, live: LiveCourses, account: number) {
    this.em = em;
    this.live = live;
    this.account = account;
  }

  course(id: number): Promise<LiveCourse> {
    let known = this.courses.get(id);
    if (!known) this.courses.set(id, (known = this.live.get(this.em, id)));
    return known;
  }

  /** The courses of one’s own, with what one is there. */
  parts(): Promise<ReadonlyMap<number, CoursePermissions>> {
    this.access ??= partsFor(this.em, this.account).then(
      (parts) => new Map([...parts].filter(([, { may }]) => may.has('course.read'))),
    );
    return this.access;
  }

  async way(from: number, to: number): Promise<CopyMapping> {
    const key = `${from} ${to}`;
    let known = this.ways.get(key);
    if (!known) {
      const made = async () => {
        const [source, target] = [(await this.course(from)).course, (await this.course(to)).course];
        return copyMapping(source, target, from === to ? {} : await confirmedMatches(this.em, from, to));
      };
      this.ways.set(key, (known = made()));
    }
    return known;
  }

  /** The wording of one course for one of another: of the same set, else of the same id. */
  async wordingTo(from: number, to: number): Promise<(key: string) => string> {
    if (from === to) return (key) => key;
    this.links ??= this.em
      .find(SetMemberRow, { kind: 'wording', course: { $in: [...(await this.parts()).keys()] } })
      .then((rows) => new WordingLinks(rows));
    const links = await this.links;
    return (key) => links.to(from, key, to) ?? key;
  }

  /** The copies of a set in courses of one's own, and how many more there are. */
  async copies(set: SetRow): Promise<{ copies: SetCopy[]; others: number }> {
    const members = await this.em.find(SetMemberRow, { set: set.id }, { orderBy: { course: 'asc' } });
    const parts = await this.parts();
    const copies: SetCopy[] = [];
    let others = 0;
    for (const member of members) {
      const part = parts.get(member.course);
      if (part === undefined) others++;
      else copies.push(...(await this.copy(member, part)));
    }
    return { copies, others };
  }

  /** Nothing where it is gone or cannot be read. */
  private async copy(member: SetMemberRow, part: CoursePermissions): Promise<SetCopy[]> {
    const { course, key } = member;
    const live = await this.course(course);
    if (member.kind === 'rule') {
      const row = await this.em.findOne(RuleRow, { course, key });
      const rule = row && readableRule(row);
      return rule ? [{ member, live, part, row, document: { rule }, name: rule.name }] : [];
    }
    const row = await this.em.findOne(WordingRow, { course, key });
    return row ? [{ member, live, part, row, document: { wording: wordingOfRow(row) }, name: row.name }] : [];
  }

  async version(set: SetRow, version: number): Promise<CourseDocument> {
    const row = await this.em.findOneOrFail(SetVersionRow, { set: set.id, version }, { disableIdentityMap: true });
    return { document: readStored(set.kind, row.document), live: await this.course(row.course) };
  }

  /** In the terms of a course. */
  async inTerms({ document, live }: CourseDocument, target: LiveCourse) {
    const way = await this.way(live.id, target.id);
    return { way, ...documentThere(document, way, await this.wordingTo(live.id, target.id)) };
  }

  /** The parts in which a copy is not as the set says at its latest. */
  async differs(set: SetRow, copy: SetCopy): Promise<string[]> {
    const latest = await this.inTerms(await this.version(set, set.version), copy.live);
    const [said, stands] = [partsOf(latest.document), partsOf(copy.document)];
    return compareParts(said, said, stands).map((l) => l.part);
  }

  /** What would come of a copy if it took what `said` says. */
  async merge(set: SetRow, copy: SetCopy, said: CourseDocument, picks: PartChoices): Promise<CopyMerge> {
    const { way, document, problems } = await this.inTerms(said, copy.live);
    const origin = await this.inTerms(await this.version(set, copy.member.from), copy.live);
    const there = partsOf(copy.document);
    const lines = compareParts(partsOf(origin.document), partsOf(document), there);
    const { parts, open } = mergeParts(there, lines, picks);
    const merged: SetDocument =
      'rule' in copy.document
        ? { rule: ruleOfParts(copy.document.rule, parts) }
        : { wording: wordingOfParts(copy.document.wording, parts) };
    const taken = lines.filter((l) => pickOf(l, picks) !== 'there').map((l) => l.part);
    const about = problems.filter((p) => taken.some((part) => p.path.startsWith(part)));
    return { lines, document: merged, open, problems: named(about, way), way };
  }

  /** The same for the screen. */
  async change(
    set: SetRow,
    copy: SetCopy,
    said: CourseDocument,
    picks: PartChoices,
    now: Instant,
  ): Promise<SetChange | null> {
    const merge = await this.merge(set, copy, said, picks);
    if (merge.lines.every((l) => l.state === 'kept')) return null;
    const names = await this.wordingNames(said.live.id, copy.live.id);
    const { kind } = set;
    const words = (part: string, value: unknown) =>
      partWords(kind, part, value, withUnmatched(merge.way), (key) => names.get(key) ?? key);
    return {
      from: said.live.course.code,
      problems: merge.problems,
      proposed: proposedOf(merge.way, kind === 'rule' && 'rule' in said.document ? said.document.rule : null),
      lines: merge.lines.map((line): SetLine => {
        const { part, state } = line;
        return {
          part,
          state,
          title: partTitle(part),
          pick: pickOf(line, picks),
          isText: isTextPart(kind, part),
          origin: words(part, line.origin),
          here: words(part, line.here),
          there: words(part, line.there),
        };
      }),
      reach:
        'rule' in merge.document && 'rule' in copy.document
          ? reachOf(copy.document.rule, merge.document.rule, copy.live, now)
          : null,
    };
  }

  private async wordingNames(...courses: number[]): Promise<ReadonlyMap<string, string>> {
    const rows = await this.em.find(
      WordingRow,
      { course: { $in: courses } },
      { fields: ['key', 'name'], disableIdentityMap: true },
    );
    return new Map(rows.map((r) => [r.key, r.name]));
  }
}

/** Wordings by their sets. */
class WordingLinks {
  private readonly sets = new Map<string, number>();
  private readonly keys = new Map<string, string>();

  constructor(members: readonly SetMemberRow[]) {
    for (const { set, course, key } of members) {
      this.sets.set(`${course} ${key}`, set);
      this.keys.set(`${set} ${course}`, key);
    }
  }

  to(from: number, key: string, to: number): string | undefined {
    const set = this.sets.get(`${from} ${key}`);
    return set === undefined ? undefined : this.keys.get(`${set} ${to}`);
  }
}

/** Why a copy is left alone. */
export function leftAloneBecause({ live, part, row }: SetCopy): SetMember['leftAlone'] {
  if (live.row.archivedAt != null) return 'archivedCourse';
  if (!part.may.has('drafts.write')) return 'notAllowed';
  return 'archivedAt' in row && row.archivedAt != null ? 'putAway' : null;
}

/** Problems name items as people know them. */
const named = (problems: readonly CarryProblem[], way: CopyMapping): CarryProblem[] =>
  problems.map((p) => (p.code === 'item' ? { ...p, name: unmatchedItem(way, p.name) } : p));

/** The target with the source’s unmatched items, so that a sentence can say their titles. */
function withUnmatched({ source, target, items }: CopyMapping): Course {
  const missing = source.items.filter((i) => items.get(i.id) == null && !target.itemIndex.has(i.id));
  if (missing.length === 0 || source === target) return target;
  const all = [...target.items, ...missing];
  return { ...target, items: all, itemIndex: new Map(all.map((i, at) => [i.id, at])) };
}

/** For similar items, those that the rule names; all of them for a wording, as its chips may name any. */
export function proposedOf({ source, target, proposed }: CopyMapping, rule: Rule | null): SetChange['proposed'] {
  const title = (course: Course, id: string | null) => course.items.find((i) => i.id === id)?.title ?? '';
  const text = rule === null ? null : JSON.stringify(rule.when);
  return proposed
    .filter(({ from }) => text === null || text.includes(JSON.stringify(from)))
    .map((m) => ({ ...m, fromTitle: title(source, m.from), toTitle: title(target, m.to) }));
}

function reachOf(before: Rule, after: Rule, { course, facts }: LiveCourse, now: Instant): SetChange['reach'] {
  const [was, is] = [new Set(matchesAt(before, facts, now)), new Set(matchesAt(after, facts, now))];
  const names = (found: Iterable<number>, but: ReadonlySet<number>) =>
    [...found].filter((i) => !but.has(i)).map((i) => fullName(course.people[i]!));
  return {
    before: was.size,
    after: is.size,
    students: course.people.filter(isActiveStudent).length,
    more: names(is, was).slice(0, NAMES_SHOWN),
    fewer: names(was, is).slice(0, NAMES_SHOWN),
  };
}
