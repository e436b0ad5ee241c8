/** A scenario file as an import: its people, items, events and grades are merged; its rules are not. */
import { parseInstant } from '../time/instant.ts';
import { parseScenario } from '../scenario/format.ts';
import type { Draft, DraftItem, DraftPerson, ScenarioJson } from './draft.ts';
import type { Outcome } from './facts.ts';
import { UnreadableFile } from './text.ts';

/** Returns how many entries were read. Throws `UnreadableFile` with the first problems of a file that does not fit. */
export function takeScenario(json: unknown, draft: Draft, count: (outcome: Outcome) => void): number {
  const parsed = parseScenario(json);
  if (!parsed.ok) {
    const said = parsed.problems.slice(0, 3).map((p) => `${p.path}: ${p.message}.`);
    throw new UnreadableFile(`This scenario file does not fit. ${said.join(' ')}`);
  }
  const { people, items = [], events = [], grades = [] } = json as ScenarioJson;
  const merge = <T extends DraftPerson | DraftItem>(list: T[], entry: T): void => {
    const known = list.find((e) => e.id === entry.id);
    if (!known) list.push(structuredClone(entry));
    const before = JSON.stringify(known);
    if (known) Object.assign(known, structuredClone(entry));
    count(!known ? 'new' : before === JSON.stringify(known) ? 'same' : 'changed');
  };
  for (const person of people) merge(draft.json.people, person);
  for (const item of items) merge(draft.json.items!, item);
  draft.changed();
  for (const e of events) count(draft.facts.addEvent({ ...e, item: e.item ?? null, at: parseInstant(e.at) }));
  for (const g of grades) count(draft.facts.addGrade({ ...g, criterion: g.criterion ?? null, at: parseInstant(g.at) }));
  return people.length + items.length + events.length + grades.length;
}
