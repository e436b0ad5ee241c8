/** Sources and platforms on the command line: it works beside a running server, on the database of the data folder. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { pino } from 'pino';
import { z } from 'zod';
import { LiveCourses } from '../course/activity/live.ts';
import { addSource, cardOf, pull, removeSource, sourcesOf, type PullServices } from '../connections/sources.ts';
import { addPlatform, platformCard, platforms, platformSchema, removePlatform } from '../connections/lti/platforms.ts';
import { oneRosterSchema } from '../connections/oneRoster/settings.ts';
import { openDatabase, placeOf } from '../wiring/database.ts';
import { systemClock } from '../platform/process/clock.ts';
import type { Config } from '../platform/process/config.ts';
import { sealOf } from '../platform/process/seal.ts';
import { onDatabase } from './onDatabase.ts';
import { outgoing } from '../platform/http/outgoing.ts';

/** What is printed, and how the command ends: 1 for a trouble of the other side. */
export interface CommandOutput {
  readonly text: string;
  readonly code: 0 | 1;
}

/** Throws a sentence where there is no database, and what `connections` throws. */
export const onConnections = (
  config: Config,
  work: (services: PullServices) => Promise<CommandOutput>,
): Promise<CommandOutput> =>
  onDatabase(config, async ({ orm, secret }) => {
    const { data, allowPrivate } = config;
    const demoNow = demoClock(data);
    const reading = await openDatabase(placeOf(config), { reading: true });
    try {
      return await work({
        orm,
        reading,
        live: new LiveCourses(config.fixed),
        logger: pino({ level: 'silent' }),
        clock: demoNow === null ? systemClock : { now: () => demoNow },
        seal: sealOf(secret, 'factors'),
        sealOutside: sealOf(secret, 'connections'),
        outgoing: outgoing({ allowPrivate: allowPrivate || demoNow !== null }),
      });
    } finally {
      await reading.close();
    }
  });

/** The time of the demo's clock; null for a folder without a demo. */
function demoClock(data: string): number | null {
  const file = join(data, 'demo-clock.json');
  if (!existsSync(file)) return null;
  return z.object({ now: z.number() }).parse(JSON.parse(readFileSync(file, 'utf8'))).now;
}

const json = (value: object): string => JSON.stringify(value, null, 2);

export const addFromFile =
  (input: unknown) =>
  async (services: PullServices): Promise<CommandOutput> => {
    const order = oneRosterSchema.parse(input);
    return { text: JSON.stringify({ id: await addSource(services, order) }), code: 0 };
  };

export const pullOne =
  (id: number) =>
  async (services: PullServices): Promise<CommandOutput> => {
    const pulled = await pull(services, id);
    return { text: json(pulled), code: pulled.trouble === null ? 0 : 1 };
  };

export const listAll = async ({ reading }: PullServices): Promise<CommandOutput> => ({
  text: json((await sourcesOf(reading.em.fork())).map((row) => ({ course: row.course, ...cardOf(row) }))),
  code: 0,
});

export const removeOne =
  (id: number) =>
  async (services: PullServices): Promise<CommandOutput> => {
    await removeSource(services, id);
    return { text: JSON.stringify({ removed: id }), code: 0 };
  };

export const addPlatformFrom =
  (input: unknown) =>
  async (services: PullServices): Promise<CommandOutput> => {
    const order = platformSchema.parse(input);
    return { text: JSON.stringify({ id: await addPlatform(services, order) }), code: 0 };
  };

export const listPlatforms = async ({ reading }: PullServices): Promise<CommandOutput> => ({
  text: json((await platforms(reading.em.fork())).map(platformCard)),
  code: 0,
});

export const removePlatformOf =
  (id: number) =>
  async (services: PullServices): Promise<CommandOutput> => {
    await removePlatform(services, id);
    return { text: JSON.stringify({ removed: id }), code: 0 };
  };
