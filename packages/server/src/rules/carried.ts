/** Where the rules of a course came from: another course, or a file. */
import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { SenderSettings } from '@zest-bell/core/course';
import type { CarriedSetting, CarryProblem, DateChange } from '@zest-bell/core/carry';
import type { LookoutView } from '@zest-bell/core/lookout';
import { instantColumn } from '../platform/database/columns.ts';
import { actorColumn } from '../access/entity.ts';
import { account, holds, key, plain, words } from '../platform/database/holds.ts';

/** What came along, as it was then: what was changed since can be told from it. */
export interface CarryRecord {
  readonly rules: readonly {
    readonly rule: string;
    /** Its id in the source; records of before that was kept have none. */
    readonly from?: string;
    readonly dates: readonly DateChange[];
    readonly problems: readonly CarryProblem[];
    /** `id`: as it is in the rule here; `from` and `to`: its titles in the source and here. */
    readonly items: readonly { readonly id: string; readonly from: string; readonly to: string | null }[];
  }[];
  readonly wordings: readonly { readonly wording: string; readonly finds: number }[];
  /** Only those that were changed here. `before`: as it was here. */
  readonly settings: readonly (Pick<CarriedSetting, 'what' | 'to'> & { readonly before: unknown })[];
  /** All limits, weights and marks that came, by their names; rows of before that was kept have none. */
  readonly came?: readonly string[];
  readonly sender: {
    readonly before: SenderSettings;
    readonly after: SenderSettings;
    readonly confirmed: boolean;
  } | null;
  readonly views: readonly { readonly name: string; readonly view: LookoutView }[];
  /** The change that brought items and marks; null where none did. */
  readonly change: number | null;
}

/** Rules that were brought as a file, to be carried over from. */
export const RulesFileRow = defineEntity({
  name: 'RulesFileRow',
  tableName: 'rules_file',
  properties: {
    id: p.integer().primary(),
    course: p.integer().index(),
    name: p.string(),
    /** As it came: it fitted then, and is read again each time. */
    document: p.json<object>(),
    at: instantColumn(),
  },
});
export type RulesFileRow = Readonly<InferEntity<typeof RulesFileRow>>;

/** What somebody went through on the checklist. */
export interface CarryChecklist {
  readonly rules: readonly string[];
  readonly wordings: readonly string[];
  readonly sender: boolean;
  readonly settings?: readonly string[];
}

export const NOTHING_TICKED: CarryChecklist = { rules: [], wordings: [], sender: false };

/** Decisions of another course that were carried into this one, and the checklist that this ends in. */
export const CarryRow = defineEntity({
  name: 'CarryRow',
  tableName: 'carry',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    source: p.integer(),
    sourceCode: p.string(),
    sourceTitle: p.string(),
    at: instantColumn(),
    by: actorColumn(),
    along: p.json<CarryRecord>(),
    ticked: p.json<CarryChecklist>().default(JSON.stringify(NOTHING_TICKED)),
    dismissedAt: instantColumn().nullable(),
    undoneAt: instantColumn().nullable(),
  },
  indexes: [{ properties: ['course', 'id'] }],
});
export type CarryRow = Readonly<InferEntity<typeof CarryRow>>;

export const rulesFileHolds = holds(RulesFileRow, {
  owner: ['course'],
  columns: { id: key, course: key, name: words, document: words, at: plain },
});
export const carryHolds = holds(CarryRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    source: key,
    sourceCode: plain,
    sourceTitle: plain,
    at: plain,
    by: account,
    along: words,
    ticked: plain,
    dismissedAt: plain,
    undoneAt: plain,
  },
});
