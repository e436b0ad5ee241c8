/** Taking what a source told: all of it in one transaction, as one change with the source's name. */
import { latestActAt } from '@zest-bell/core/activity';
import { namedActor } from '@zest-bell/core/access';
import {
  mergeSourceData,
  type Links,
  type PeopleCounts,
  type RefusedTold,
  type SourceImport,
  type DataFromSource,
} from '@zest-bell/core/connections';
import { isSame, type Course, type SourceName } from '@zest-bell/core/course';
import { courseDraft, draftedCourse, knownOf } from '@zest-bell/core/imports';
import { plural } from '@zest-bell/core/time';
import { erasedHere } from '../course/erased.ts';
import { inCourse } from '../course/lock.ts';
import { applyChange } from '../intake/changes/apply.ts';
import { ChangeRow } from '../intake/changes/entity.ts';
import { retractedKeys } from '../intake/imports/read.ts';
import { markSourcesHeard } from '../intake/imports/takeIn.ts';
import type { Em, Tx } from '../platform/database/orm.ts';
import { inSlices } from '../platform/database/query.ts';
import { SourceLinkRow, SourceRow, sourceLinkHolds } from './entity.ts';
import type { ConnectionServices } from './services.ts';
import { upsertRows } from '../platform/database/writing.ts';

export interface SourceDataToImport {
  readonly source: Pick<SourceRow, 'id' | 'course'>;
  /** As Changes name it. */
  readonly name: string;
  readonly told: DataFromSource;
  /** What was refused before, as what it is cannot be read. */
  readonly refused: readonly RefusedTold[];
  readonly sources: readonly SourceName[];
}

export type SourceImportCounts = Omit<SourceImport, 'links'>;

export async function importFromSource(
  services: Pick<ConnectionServices, 'orm' | 'live' | 'clock' | 'seal'>,
  order: SourceDataToImport,
): Promise<SourceImportCounts> {
  const { source, name, told, sources } = order;
  const { orm, live, clock, seal } = services;
  return inCourse(orm, source.course, async (tx) => {
    const now = clock.now();
    const { course, facts } = await live.get(tx, source.course);
    const known = { ...knownOf(facts.history), retracted: await retractedKeys(tx, source.course) };
    const draft = courseDraft(course, known, latestActAt(now));
    const links = await linksOf(tx, source.id, course);
    const taken = mergeSourceData(told, {
      draft,
      links,
      byHand: await setByHand(tx, source.course),
      isErased: await erasedHere(tx, seal, source.course),
      now,
    });
    const many = ({ new: fresh, changed, gone }: PeopleCounts, one: string, more?: string) =>
      fresh + changed + gone === 0 ? [] : [plural(fresh + changed + gone, one, more)];
    const { people, items, grades } = taken;
    const parts = [...many(people, 'person', 'people'), ...many(items, 'item'), ...many(grades, 'grade')];
    await applyChange(
      tx,
      course,
      draftedCourse(draft, course),
      {
        course: source.course,
        kind: 'import',
        by: namedActor(name),
        now,
        title: `${parts.join(', ') || 'Data'} from ${name}`,
      },
      { events: [], grades: draft.facts.grades, retractedEvents: [], retractedGrades: [] },
    );
    await keepLinks(tx, source.id, links, taken.links);
    await markSourcesHeard(tx, source.course, sources, now);
    const { links: _links, ...took } = taken;
    return { ...took, refused: [...order.refused, ...taken.refused] };
  });
}

/** A person or an item that was removed by hand is known no more: told again, they are new. */
async function linksOf(em: Em, source: number, course: Course): Promise<Links> {
  const rows = await em.find(SourceLinkRow, { source }, { disableIdentityMap: true });
  return {
    people: new Map(
      rows.flatMap((r) =>
        r.kind === 'person' && course.personIndex.has(r.key) ? [[r.external, { key: r.key, alone: r.alone }]] : [],
      ),
    ),
    items: new Map(
      rows.flatMap((r) => (r.kind === 'item' && course.itemIndex.has(r.key) ? [[r.external, r.key]] : [])),
    ),
  };
}

async function keepLinks(tx: Tx<'course'>, source: number, before: Links, after: Links): Promise<void> {
  const rows = [
    ...[...after.people].flatMap(([external, { key, alone }]) =>
      isSame(before.people.get(external), { key, alone }) ? [] : [{ kind: 'person' as const, external, key, alone }],
    ),
    ...[...after.items].flatMap(([external, key]) =>
      before.items.get(external) === key ? [] : [{ kind: 'item' as const, external, key, alone: false }],
    ),
  ];
  for (const slice of inSlices(rows, 100))
    await upsertRows(
      tx,
      sourceLinkHolds,
      slice.map((row) => ({ source, ...row })),
      { onConflictFields: ['source', 'kind', 'external'] },
    );
}

/** Fields of people and items that somebody changed by hand and nobody took back: what a platform says of them changes nothing. */
async function setByHand(em: Em, course: number): Promise<(entry: string, field: string) => boolean> {
  const edits = await em.find(
    ChangeRow,
    { course, kind: 'edit', undoneBy: null },
    { fields: ['changes'], disableIdentityMap: true },
  );
  const fields = new Set<string>();
  for (const { changes } of edits) {
    for (const { id, before, after } of [...changes.people, ...changes.items]) {
      if (!before || !after) continue;
      const old = new Map<string, unknown>(Object.entries(before));
      for (const [field, value] of Object.entries(after))
        if (!isSame(old.get(field), value)) fields.add(`${id}\n${field}`);
    }
  }
  return (entry, field) => fields.has(`${entry}\n${field}`);
}
