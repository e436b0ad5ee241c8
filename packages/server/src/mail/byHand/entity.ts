import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { Wording } from '@zest-bell/core/wording';
import type { MailingRows } from '@zest-bell/core/imports';
import { instantColumn } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import {
  account,
  address,
  facts,
  type ErasedStudent,
  holds,
  key,
  notTold,
  personIds,
  plain,
  redactedIn,
  words,
} from '../../platform/database/holds.ts';

/** A message that an instructor wrote by hand to one or many, with the values that it has for each of them. */
export const MailingRow = defineEntity({
  name: 'MailingRow',
  tableName: 'mailing',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    at: instantColumn(),
    by: actorColumn(),
    wording: p.json<Wording>(),
    rows: p.json<MailingRows>(),
    /** Addresses outside the institution that were agreed to. */
    outside: p.json<readonly string[]>(),
    sheet: p.integer().nullable(),
  },
  indexes: [{ properties: ['course', 'id'] }],
});
export type MailingRow = Readonly<InferEntity<typeof MailingRow>>;

/** A sheet that was brought for writing: its rows as they stand, and which of them were written to. */
export const SheetRow = defineEntity({
  name: 'SheetRow',
  tableName: 'sheet',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    name: p.string(),
    at: instantColumn(),
    by: actorColumn(),
    headers: p.json<readonly string[]>(),
    rows: p.json<readonly (readonly string[])[]>(),
    /** The nudge of each row that was written to, by its place. */
    nudges: p.json<Readonly<Record<string, number>>>().default('{}'),
  },
  indexes: [{ properties: ['course', 'id'] }],
});
export type SheetRow = Readonly<InferEntity<typeof SheetRow>>;

export const mailingHolds = holds(MailingRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    at: plain,
    by: account,
    wording: words,
    sheet: key,
    rows: personIds.searched((rows: MailingRows, gone) => {
      const { [gone.id]: _theirs, ...others } = rows;
      return redactedIn(others, gone);
    }),
    outside: address.searched((all: readonly string[], { isNamed }) => all.filter((one) => !isNamed(one))),
  },
  kept: 'goes',
  told: notTold('what it said to them is in the mail'),
});

/** A row about them has empty cells. */
function withoutTheirRows(rows: readonly (readonly string[])[], gone: ErasedStudent): (readonly string[])[] {
  const isTheirs = (cells: readonly string[]) => cells.some((cell) => gone.isThem(cell.trim()));
  return rows.map((cells) => (isTheirs(cells) ? cells.map(() => '') : cells));
}

export const sheetHolds = holds(SheetRow, {
  owner: ['course'],
  columns: {
    id: key,
    course: key,
    name: words,
    at: plain,
    by: account,
    headers: words,
    nudges: key,
    rows: facts.searched(withoutTheirRows),
  },
  kept: 'goes',
  told: notTold('what was written to them from it is in the mail'),
});
