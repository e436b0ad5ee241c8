/** The requests about connections. */
import { contract } from '@zest-bell/core/contract';
import type { Door } from '../access/door.ts';
import { idOf } from '../access/pathIds.ts';
import { proposeClasses } from '@zest-bell/core/connections';
import { CourseRow } from '../course/entity.ts';
import { arrivalsAt } from '../intake/statements/arrivals.ts';
import { mustBeFresh } from '../access/signIn.ts';
import { platformHolds } from './lti/entity.ts';
import { AppError } from '../platform/errors/errors.ts';
import { ownOrigin } from '../platform/http/http.ts';
import { SourceRow } from './entity.ts';
import { addPlatform, platformCard, platforms, removePlatform } from './lti/platforms.ts';
import { approve, registrationAddress } from './lti/registration.ts';
import { oneRosterClient } from './oneRoster/client.ts';
import { classesOf } from './oneRoster/pull.ts';
import type { ConnectionServices } from './services.ts';
import { addSource, cardOf, pull, removeSource, sourcesOf } from './sources.ts';
import { updateRows } from '../platform/database/writing.ts';
import { inInstallation } from '../access/holding.ts';

/** Courses that classes are proposed for. */
const MOST_COURSES = 5000;

export function serveConnections(door: Door, services: ConnectionServices): void {
  const { reading, clock } = services;

  door.on(contract.connections.sources, async ({ course }) =>
    (await sourcesOf(reading.em.fork(), course)).map((row) => cardOf(row, clock)),
  );

  door.on(contract.connections.pull, async ({ course, path }) => {
    const id = idOf(path.source);
    if ((await reading.em.fork().count(SourceRow, { id, course })) === 0) throw new AppError('notFound');
    return pull(services, id);
  });

  door.on(contract.connections.disconnect, ({ course, path }) => removeSource(services, idOf(path.source), course));

  door.on(contract.connections.platforms, async () => (await platforms(reading.em.fork())).map(platformCard));

  door.on(contract.connections.addPlatform, async ({ body }) => ({ id: await addPlatform(services, body) }));

  door.on(contract.connections.removePlatform, ({ path }) => removePlatform(services, idOf(path.platform)));

  door.on(contract.connections.registerPlatform, ({ body: { origin }, req }) => {
    const base = services.linkBase() ?? ownOrigin(req, null);
    if (base === null) throw new AppError('noPublicAddress');
    return registrationAddress(services, { origin, base });
  });

  door.on(contract.connections.approvePlatform, ({ path, body: { deployments } }) =>
    inInstallation(services.orm, (tx) => approve(tx, idOf(path.platform), deployments)),
  );

  door.on(contract.connections.trustPlatform, async ({ path, body: { trusts: trustsAddresses }, req }) => {
    mustBeFresh(req);
    const id = idOf(path.platform);
    const done = await inInstallation(services.orm, (tx) => updateRows(tx, platformHolds, { id }, { trustsAddresses }));
    if (done === 0) throw new AppError('notFound');
  });

  door.on(contract.connections.arrivals, ({ course }) => arrivalsAt(reading.em.fork(), course, services.clock.now()));

  door.on(contract.connections.classes, async ({ body: { clientSecret, ...settings } }) => {
    const client = oneRosterClient(services.outgoing, settings, clientSecret);
    const rows = await reading.em
      .fork()
      .find(
        CourseRow,
        { archivedAt: null },
        {
          fields: ['code', 'title'],
          orderBy: { code: 'asc', id: 'asc' },
          limit: MOST_COURSES,
          disableIdentityMap: true,
        },
      );
    const courses = rows.map(({ id, code, title }) => ({ id, code, title }));
    return { classes: proposeClasses(await classesOf(client), courses), courses };
  });

  door.on(contract.connections.addOneRoster, async ({ body }) => ({ id: await addSource(services, body) }));
}
