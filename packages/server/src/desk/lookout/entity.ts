import { defineEntity, p, type InferEntity } from '@mikro-orm/core';
import type { LookoutView } from '@zest-bell/core/lookout';
import { instantColumn } from '../../platform/database/columns.ts';
import { actorColumn } from '../../access/entity.ts';
import { account, holds, key, plain, words } from '../../platform/database/holds.ts';

/** A view of the table of students under a name, for everybody who works in the course. */
export const ViewRow = defineEntity({
  name: 'ViewRow',
  tableName: 'lookout_view',
  properties: {
    id: p.integer().primary(),
    course: p.integer(),
    name: p.string(),
    /** As it was saved; read again each time, as the course may have changed since. */
    view: p.json<LookoutView>(),
    by: actorColumn(),
    at: instantColumn(),
  },
  uniques: [{ properties: ['course', 'name'] }],
});
export type ViewRow = Readonly<InferEntity<typeof ViewRow>>;

export const viewHolds = holds(ViewRow, {
  owner: ['course'],
  columns: { id: key, course: key, name: words, view: words, by: account, at: plain },
});
