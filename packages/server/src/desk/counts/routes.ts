import { contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { countsOf } from './counts.ts';

export function countRoutes(door: Door, { reading, live, clock }: IntakeServices): void {
  door.on(contract.desk.counts, async ({ course }) => {
    const em = reading.em.fork();
    return countsOf(em, await live.get(em, course), clock.now());
  });
}
