/** The measures of a course at its latest moments, and what the places show of them. They live in the page's one worker. */
import type { Problem } from '@zest-bell/core/problem';
import type { WorkInParts, Instant } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import { callKey, factWords, unpackColumn, type MeasureCall, type MeasureColumn } from '@zest-bell/core/measures';
import { leavesOf, type Condition } from '@zest-bell/core/conditions';
import { courseProblems, parseRule, ruleDocument, type Rule } from '@zest-bell/core/rules';
import { lookNearby, reach, SentFacts, type LimitLog, type ReachColumns } from '@zest-bell/core/rounds';
import {
  ASK_NOTHING,
  LookoutTable,
  type RuleMatches,
  type LookoutColumn,
  type LookoutColumnData,
  type LookoutQuery,
  type LookoutShown,
  type StudentLog,
} from '@zest-bell/core/lookout';
import type { CourseAnswer } from '@zest-bell/core/exchange';

export type SentResult =
  { readonly ok: true; readonly reach: ReachColumns } | { readonly ok: false; readonly problems: readonly Problem[] };

/** Columns that are kept: the newest of as many calls as a composer and a wide table ask for. */
const MOST = 200;

/**
 * Moments in the cache: the page's own, and earlier ones with answers still on their way. An answer about an
 * earlier moment that comes late must not take the place of the present one.
 */
const MOMENTS = 3;
/** How long nothing is asked about a draft before its numbers are looked at nearby, in ms. */
const QUIET = 200;
/** Tables of one moment, each as of another day. */
const MOST_TABLES = 8;

const measured = (column: LookoutColumn): MeasureCall[] => (column.kind === 'measure' ? [column.call] : []);

/** The table of students as of an instant, on what is known at one moment. */
export interface TableMoment {
  readonly key: string;
  readonly at: Instant;
}

export interface SentColumn extends LookoutColumnData {
  /** By row, the fact behind the value in words; null as of an earlier instant than the moment’s. */
  readonly facts: readonly (string | null)[] | null;
}
export interface SentTable {
  /** One student a row. */
  readonly students: readonly string[];
  readonly columns: readonly SentColumn[];
}

/** A course at one version, at the moment that a place speaks of. */
interface KeptCourse {
  readonly course: ReturnType<typeof makeCourse>;
  readonly columns: Map<string, MeasureColumn>;
  facts: SentFacts | null;
  readonly logs: Map<Instant, ReadonlyMap<string, StudentLog>>;
  readonly rules: Map<Instant, ReadonlyMap<string, RuleMatches>>;
  /** Of the facts as they are now. */
  tables: Map<Instant, LookoutTable>;
}

export class Moments {
  /** By their keys, oldest first. */
  private readonly moments = new Map<string, KeptCourse>();
  private lookingNearby: ReturnType<typeof setTimeout> | undefined;

  /** Makes room for what will be asked about this course at this moment; the oldest moment is let go. */
  about(key: string, answer: CourseAnswer): void {
    if (this.moments.has(key)) return;
    this.moments.set(key, {
      course: makeCourse(answer),
      columns: new Map(),
      facts: null,
      logs: new Map(),
      rules: new Map(),
      tables: new Map(),
    });
    if (this.moments.size > MOMENTS) this.moments.delete(this.moments.keys().next().value!);
  }

  /** Takes in a measure as it was sent. */
  take(key: string, bytes: ArrayBuffer): void {
    const kept = this.moments.get(key);
    const column = unpackColumn(new Uint8Array(bytes));
    if (!column || !kept) return;
    const call = callKey(column.call);
    kept.columns.delete(call);
    kept.columns.set(call, column);
    for (const oldest of kept.columns.keys()) {
      if (kept.columns.size <= MOST) break;
      kept.columns.delete(oldest);
    }
    kept.facts = null;
    kept.tables = new Map();
  }

  /** Takes in what the log knew of each student as of an instant. */
  takeLog({ key, at }: TableMoment, students: Readonly<Record<string, StudentLog>>): void {
    const kept = this.moments.get(key);
    if (!kept) return;
    kept.logs.set(at, new Map(Object.entries(students)));
    kept.tables.delete(at);
  }

  /** Takes in who matches the rules that are columns, or brushed, as of an instant. */
  takeRules({ key, at }: TableMoment, rules: Readonly<Record<string, RuleMatches>>): void {
    const kept = this.moments.get(key);
    if (!kept) return;
    kept.rules.set(at, new Map(Object.entries(rules)));
    kept.tables.delete(at);
  }

  /** The values of columns, by row. Null while a measure of them is not here. */
  columns(of: TableMoment, columns: readonly LookoutColumn[]): SentTable | null {
    const kept = this.moments.get(of.key);
    const table = kept && this.tableOf(kept, of.at, columns.flatMap(measured));
    if (!kept || !table) return null;
    const { people, timeZone } = kept.course;
    const matches = kept.rules.get(of.at);
    return {
      students: table.people.map((i) => people[i]!.id),
      columns: columns.map((column): SentColumn => {
        const sent = column.kind === 'measure' ? kept.columns.get(callKey(column.call)) : undefined;
        if (column.kind === 'rule') {
          const found = matches?.get(column.rule) ?? {};
          return { ...table.column(column), facts: table.people.map((i) => found[people[i]!.id]?.evidence ?? null) };
        }
        const facts =
          sent && sent.at === of.at && sent.facts.length > 0
            ? table.people.map((i) => factWords(sent.facts[i]!, timeZone))
            : null;
        return { ...table.column(column), facts };
      }),
    };
  }

  /** Who is shown, in which order, and how they are spread over each column. Null while a measure is not here. */
  show(of: TableMoment, query: LookoutQuery): LookoutShown | null {
    const kept = this.moments.get(of.key);
    const calls = [...query.columns.flatMap(measured), ...(query.when === null ? [] : leavesOf(query.when))];
    return (kept && this.tableOf(kept, of.at, calls)?.show(query)) ?? null;
  }

  /** Ids of the active students who meet a condition, by name. Null while a measure is missing. */
  matching(of: TableMoment, when: Condition): readonly string[] | null {
    const kept = this.moments.get(of.key);
    const table = kept && this.tableOf(kept, of.at, leavesOf(when));
    if (!table) return null;
    const { rows } = table.show({ ...ASK_NOTHING, when });
    return Array.from(rows, (row) => kept.course.people[table.people[row]!]!.id);
  }

  private tableOf(kept: KeptCourse, at: Instant, calls: readonly MeasureCall[]): LookoutTable | null {
    const facts = (kept.facts ??= new SentFacts(kept.course, kept.columns.values()));
    if (!facts.has(calls)) return null;
    let table = kept.tables.get(at);
    if (!table) {
      table = new LookoutTable(facts, at, { logs: kept.logs.get(at), rules: kept.rules.get(at) });
      // Anyone who walks through the term leaves no table behind on each day.
      if (kept.tables.size > MOST_TABLES) kept.tables.clear();
      kept.tables.set(at, table);
    }
    return table;
  }

  /**
   * The reach of a draft, with the evidence of the first `most`; what is wrong with the draft instead, if anything is. Null
   * while a measure of it is not here, or the page has moved on.
   */
  reach(key: string, draft: Rule, at: Instant, logged: LimitLog, most: number, then: Instant = at): SentResult | null {
    const kept = this.moments.get(key);
    if (!kept) return null;
    const parsed = parseRule(ruleDocument(draft, kept.course.timeZone));
    if (!parsed.ok) return { ok: false, problems: parsed.problems };
    const problems = courseProblems(parsed.value, kept.course);
    if (problems.length > 0) return { ok: false, problems };
    const facts = (kept.facts ??= new SentFacts(kept.course, kept.columns.values()));
    if (!facts.has(leavesOf(parsed.value.when))) return null;
    this.lookNearby(lookNearby(parsed.value, facts, logged, at, most, then));
    return { ok: true, reach: reach(parsed.value, facts, logged, at, then, most) };
  }

  /** Once nothing has been asked for a while, part by part, so that whatever is asked next waits for one part at most. */
  private lookNearby(parts: WorkInParts<void>): void {
    clearTimeout(this.lookingNearby);
    const next = () => {
      if (!parts.next().done) this.lookingNearby = setTimeout(next, 0);
    };
    this.lookingNearby = setTimeout(next, QUIET);
  }
}
