/** A scenario file as an import: its people, items, events and grades are merged; its rules are not. */
import { parseInstant } from '../../time/instant.ts';
import { parseScenario } from '../../scenario/format.ts';
import { isSame, ownColumn } from '../../course/changes.ts';
import type { ImportDraft, DraftItem, DraftPerson, ScenarioJson } from './draft.ts';
import type { Outcome } from './facts.ts';
import { UnreadableFile } from '../read/text.ts';

/** Returns how many entries were read. Throws `UnreadableFile` with the first problems of a file that does not fit. */
export function importScenario(json: unknown, draft: ImportDraft, count: (outcome: Outcome) => void): number {
  const parsed = parseScenario(json);
  if (!parsed.ok) {
    const said = parsed.problems.slice(0, 3).map((p) => `${p.path}: ${p.message}.`);
    throw new UnreadableFile(`This scenario file does not fit. ${said.join(' ')}`);
  }
  const { people, items = [], events = [], grades = [] } = json as ScenarioJson;
  const merge = <T extends DraftPerson | DraftItem>(
    of: 'people' | 'items',
    list: T[],
    byId: Map<string, T>,
    entry: T,
  ): void => {
    const known = byId.get(entry.id);
    if (known) draft.again.say(of, entry.id, sameFields(known, entry));
    if (!known) {
      const added = structuredClone(entry);
      list.push(added);
      byId.set(entry.id, added);
    }
    const before = JSON.stringify(known);
    if (known) Object.assign(known, structuredClone(entry));
    count(!known ? 'new' : before === JSON.stringify(known) ? 'same' : 'changed');
  };
  const idsOf = <T extends { readonly id: string }>(list: readonly T[]) => new Map(list.map((e) => [e.id, e]));
  const [knownPeople, knownItems] = [idsOf(draft.json.people), idsOf(draft.json.items!)];
  for (const person of people) merge('people', draft.json.people, knownPeople, person);
  for (const item of items) merge('items', draft.json.items!, knownItems, item);
  draft.changed();
  for (const e of events) count(draft.facts.addEvent({ ...e, item: e.item ?? null, at: parseInstant(e.at) }));
  for (const g of grades) count(draft.facts.addGrade({ ...g, criterion: g.criterion ?? null, at: parseInstant(g.at) }));
  return people.length + items.length + events.length + grades.length;
}

/** Fields that an entry of the file says as they are known; those of the own columns each separately. */
function sameFields(known: DraftPerson | DraftItem, entry: DraftPerson | DraftItem): string[] {
  const fields = Object.keys(entry).filter((f) => f !== 'id' && isSame(known[f as never], entry[f as never]));
  const own = 'fields' in entry && 'fields' in known ? Object.entries(entry.fields ?? {}) : [];
  return [
    ...fields,
    ...own.flatMap(([name, value]) => ('fields' in known && known.fields?.[name] === value ? [ownColumn(name)] : [])),
  ];
}
