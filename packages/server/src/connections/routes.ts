/** The requests about connections. */
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../access/door.ts';
import { idOf } from '../access/asking.ts';
import { AppError } from '../platform/http/errors.ts';
import { SourceRow } from './entity.ts';
import { addPlatform, platformCard, platforms, removePlatform } from './lti/platforms.ts';
import type { Services } from './services.ts';
import { addSource, cardOf, pull, removeSource, sourcesOf } from './sources.ts';

export function serveConnections(door: Door, services: Services): void {
  const { reading } = services;

  door.on(contract.connections.sources, async ({ course }) => (await sourcesOf(reading.em.fork(), course)).map(cardOf));

  door.on(contract.connections.pull, async ({ course, path }) => {
    const id = idOf(path.source);
    if ((await reading.em.fork().count(SourceRow, { id, course })) === 0) throw new AppError('notFound');
    return pull(services, id);
  });

  door.on(contract.connections.disconnect, ({ course, path }) => removeSource(services, idOf(path.source), course));

  door.on(contract.connections.platforms, async () => (await platforms(reading.em.fork())).map(platformCard));

  door.on(contract.connections.addPlatform, async ({ body }) => ({ id: await addPlatform(services, body) }));

  door.on(contract.connections.removePlatform, ({ path }) => removePlatform(services, idOf(path.platform)));

  door.on(contract.connections.addOneRoster, async ({ body }) => ({ id: await addSource(services, body) }));
}
