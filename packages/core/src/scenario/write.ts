/** Parts of a course in the scenario format again: instants as ISO text in the course's zone, what is not known left out. */
import type { Item } from '../course/item.ts';
import { formatInstant, type Instant } from '../time/instant.ts';

const when = (t: Instant | null, zone: string) => (t === null ? null : formatInstant(t, zone));

export const itemDocument = (item: Item, zone: string): object => ({
  ...item,
  opensAt: when(item.opensAt, zone),
  dueAt: when(item.dueAt, zone),
  extensions: item.extensions.map((e) => ({ ...e, dueAt: formatInstant(e.dueAt, zone) })),
});
