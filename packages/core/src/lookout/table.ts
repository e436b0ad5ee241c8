/**
 * The table of all students at one instant: its columns' values, who is shown under a condition, in which order, and how the
 * shown ones are spread over each column. Values are read once; a brush only asks for verdicts on them.
 */
import { LRUCache } from 'lru-cache';
import { leavesOf, type Condition, type Leaf } from '../conditions/condition.ts';
import { verdictsOf, VERDICT_YES } from '../conditions/verdict.ts';
import { fullName, isActiveStudent } from '../course/person.ts';
import type { Facts } from '../measures/facts/facts.ts';
import { callKey } from '../measures/values/callKey.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import { valueSaidAt } from '../measures/values/timeline.ts';
import type { Value } from '../measures/values/value.ts';
import type { Instant } from '../time/instant.ts';
import type { Brush } from './brush.ts';
import { columnKey, unitOf, type LogColumn, type LookoutColumn } from './columns.ts';
import { countsWithin, distributionOf, type Distribution } from './distribution.ts';
import { logValue, NOTHING_IN_LOG, type StudentLog } from './logFacts.ts';
import { daysMatched, type RuleBrush, type RuleMatches } from './ruleMatches.ts';

export interface LogBrush {
  readonly log: LogColumn;
  readonly brush: Brush;
}

/** Sorts by how many of the table's rules a student matches, then by the days in all. */
export const SORT_BY_RULES = 'rules';

export interface SortBy {
  /** The key of a column, `name`, or `rules`. */
  readonly by: string;
  readonly down: boolean;
}

export interface LookoutQuery {
  readonly columns: readonly LookoutColumn[];
  readonly when: Condition | null;
  readonly logBrushes: readonly LogBrush[];
  readonly ruleBrushes: readonly RuleBrush[];
  readonly rulesJoin: 'all' | 'any';
  /** Words of names and addresses. */
  readonly search: string;
  /** The first is the first to count; those who are equal in all stand by name. */
  readonly sort: readonly SortBy[];
}

/** Everybody, by name. */
export const ASK_NOTHING: LookoutQuery = {
  columns: [],
  when: null,
  logBrushes: [],
  ruleBrushes: [],
  rulesJoin: 'all',
  search: '',
  sort: [],
};

export interface LookoutColumnData {
  readonly key: string;
  /** By row; null is unknown. */
  readonly values: readonly Value[];
  readonly distribution: Distribution;
}

export interface LookoutShown {
  /** Rows that are shown, in order. */
  readonly rows: Int32Array<ArrayBuffer>;
  /** For each column, how the shown ones are spread over its distribution. */
  readonly within: readonly (readonly number[])[];
}

/** What a table knows beside measures, as of its instant. */
export interface TableKnows {
  readonly logs?: ReadonlyMap<string, StudentLog> | undefined;
  readonly rules?: ReadonlyMap<string, RuleMatches> | undefined;
}

export class LookoutTable {
  /** Places in the roster of all active students, one a row. */
  readonly people: readonly number[];
  private readonly facts: Facts;
  private readonly at: Instant;
  private readonly logs: ReadonlyMap<string, StudentLog>;
  private readonly rules: ReadonlyMap<string, RuleMatches>;
  private readonly read = new Map<string, readonly (Value | undefined)[]>();
  private readonly data = new Map<string, LookoutColumnData>();
  private readonly names: readonly string[];
  private readonly found: readonly string[];
  private readonly orders = new LRUCache<string, Int32Array>({ max: 8 });

  constructor(facts: Facts, at: Instant, { logs, rules }: TableKnows = {}) {
    this.facts = facts;
    this.at = at;
    this.logs = logs ?? new Map();
    this.rules = rules ?? new Map();
    const { people } = facts.course;
    this.people = people.flatMap((p, i) => (isActiveStudent(p) ? [i] : []));
    this.names = this.people.map((i) => `${people[i]!.lastName} ${people[i]!.firstName}`);
    this.found = this.people.map((i) => {
      const p = people[i]!;
      return `${fullName(p)} ${p.email ?? ''} ${p.section ?? ''} ${p.id}`.toLowerCase();
    });
  }

  /** The values of a measure, `undefined` where it says nothing of somebody. */
  valuesOf(call: MeasureCall): readonly (Value | undefined)[] {
    const key = callKey(call);
    let values = this.read.get(key);
    if (!values) {
      values = this.people.map((i) => valueSaidAt(this.facts.timeline(i, call), this.at));
      this.read.set(key, values);
    }
    return values;
  }

  column(column: LookoutColumn): LookoutColumnData {
    const key = columnKey(column);
    let data = this.data.get(key);
    if (!data) {
      const values = this.valuesIn(column);
      data = { key, values, distribution: distributionOf(values, unitOf(column)) };
      this.data.set(key, data);
    }
    return data;
  }

  private valuesIn(column: LookoutColumn): readonly Value[] {
    const { people, calendar } = this.facts.course;
    switch (column.kind) {
      case 'measure':
        return this.valuesOf(column.call).map((v) => v ?? null);
      case 'log':
        return this.people.map((i) => this.logValueOf(i, column.log));
      case 'rule': {
        const matches = this.rules.get(column.rule) ?? {};
        return this.people.map((i) => daysMatched(matches[people[i]!.id], this.at, calendar));
      }
    }
  }

  private logValueOf(person: number, log: LogColumn): Value {
    const { course } = this.facts;
    const own = this.logs.get(course.people[person]!.id) ?? NOTHING_IN_LOG;
    return logValue(log, own, this.at, course.calendar);
  }

  /** Who is shown, in which order. */
  show(query: LookoutQuery): LookoutShown {
    const keep = this.kept(query);
    const order = this.order(query);
    const rows = new Int32Array(order.length);
    let n = 0;
    for (const row of order) if (keep[row] === 1) rows[n++] = row;
    const shown = rows.slice(0, n);
    const within = query.columns.map((c) => {
      const { values, distribution } = this.column(c);
      return countsWithin(distribution, values, shown);
    });
    return { rows: shown, within };
  }

  private kept({ when, logBrushes, ruleBrushes, rulesJoin, search }: LookoutQuery): Uint8Array {
    const n = this.people.length;
    const keep = new Uint8Array(n).fill(1);
    if (when !== null) {
      const leafValues = new Map(leavesOf(when).map((leaf) => [leaf, this.valuesOf(callOf(leaf))]));
      const verdicts = verdictsOf(when, this.facts.course.marks, n, (leaf) => leafValues.get(leaf)!);
      for (let i = 0; i < n; i++) if (verdicts[i] !== VERDICT_YES) keep[i] = 0;
    }
    for (const { log, brush } of logBrushes) {
      const { values } = this.column({ kind: 'log', log });
      for (let i = 0; i < n; i++) if (!isWithin(values[i]!, brush)) keep[i] = 0;
    }
    if (ruleBrushes.length > 0) {
      const asked = ruleBrushes.map(({ rule, brush }) => ({ ...this.column({ kind: 'rule', rule }), brush }));
      for (let i = 0; i < n; i++) {
        const passes = ({ values, brush }: (typeof asked)[number]) => isWithin(values[i]!, brush);
        if (!(rulesJoin === 'any' ? asked.some(passes) : asked.every(passes))) keep[i] = 0;
      }
    }
    const words = search.trim().toLowerCase().split(/\s+/).filter(Boolean);
    if (words.length > 0) {
      for (let i = 0; i < n; i++) if (!words.every((w) => this.found[i]!.includes(w))) keep[i] = 0;
    }
    return keep;
  }

  /** By row: how many of the rules in the table match, and for how many days in all. */
  private matched(columns: readonly LookoutColumn[]): readonly (readonly number[])[] {
    const own = columns.filter((c) => c.kind === 'rule').map((c) => this.column(c).values);
    const days = this.people.map((_, row) => own.map((values) => values[row]).filter((v) => typeof v === 'number'));
    return [days.map((d) => d.length), days.map((d) => d.reduce((a, b) => a + b, 0))];
  }

  private order({ sort, columns }: LookoutQuery): Int32Array {
    // How many rules match depends on which stand in the table; every other order on its own column alone.
    const byRules = sort.some((s) => s.by === SORT_BY_RULES);
    const key = JSON.stringify([sort, byRules ? columns.map(columnKey) : []]);
    const known = this.orders.get(key);
    if (known) return known;
    const by = sort.flatMap(({ by: name, down }) => {
      if (name === 'name') return [{ values: this.names, down }];
      if (name === SORT_BY_RULES) return this.matched(columns).map((values) => ({ values, down }));
      const column = columns.find((c) => columnKey(c) === name);
      return column ? [{ values: this.column(column).values, down }] : [];
    });
    const order = Int32Array.from(this.people, (_, row) => row);
    order.sort((a, b) => {
      for (const { values, down } of by) {
        const c = compared(values[a]!, values[b]!, down);
        if (c !== 0) return c;
      }
      return NAMES.compare(this.names[a]!, this.names[b]!) || a - b;
    });
    this.orders.set(key, order);
    return order;
  }
}

const NAMES = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

const callOf = ({ is: _is, value: _value, ...call }: Leaf): MeasureCall => call;

/** The unknown stand last, whichever way is up. */
export function compared(a: Value, b: Value, down: boolean): number {
  if (a === null || b === null) return a === b ? 0 : a === null ? 1 : -1;
  const c =
    typeof a === 'string' || typeof b === 'string' ? NAMES.compare(String(a), String(b)) : Number(a) - Number(b);
  return down ? -c : c;
}

/** Whether a value lies within a brush. */
function isWithin(value: Value, brush: Brush): boolean {
  switch (brush.kind) {
    case 'unknown':
      return value === null;
    case 'some':
      return value !== null && brush.values.includes(value);
    case 'range':
      return typeof value === 'number' && value >= (brush.low ?? -Infinity) && value <= (brush.high ?? Infinity);
  }
}
