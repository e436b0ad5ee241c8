/**
 * Of several mail processes on one machine, one takes replies at the port: the others wait for their turn, and take it over when that
 * process goes.
 */
import { connect } from 'node:net';
import { hostname } from 'node:os';
import { endNotice, giveNotice } from '../../platform/notices/notices.ts';
import { every } from '../../platform/work/timer.ts';
import type { CourseServices } from '../../course/services.ts';
import { openReceiver, RECEIVER_BANNER, type Receiver, type ReceiverOptions } from './receiver.ts';

/** How often a process looks whether the port has become free, in ms. */
const LOOKS_EVERY = 15_000;
/** How long the program that holds the port may take to greet, in ms. */
const GREETS_WITHIN = 3_000;

/** Opens the receiver, now or as soon as its port is free. Says once in the log that the port is another's, and whether that is one of ours. */
export async function receiveInTurn(
  services: CourseServices,
  options: ReceiverOptions,
  looksEvery = LOOKS_EVERY,
): Promise<Receiver> {
  const { logger, orm } = services;
  let receiver = await opened(services, options);
  if (receiver) return receiver;
  const { host, port } = options;
  const isOurs = await isReceiver(host, port);
  if (isOurs) logger.info({ event: 'repliesElsewhere', port }, 'another process on this machine takes replies');
  else logger.warn({ event: 'replyPortTaken', port }, 'the port for replies is taken by another program');
  const notice = `reply port ${hostname()} ${port}`;
  const says = `Port ${port} of ${hostname()} is taken by another program, so no replies arrive. End that program, or set another port.`;
  const look = async () => {
    if (receiver) return;
    receiver = await opened(services, options);
    if (receiver) return endNotice(orm, notice);
    if (isOurs || (await isReceiver(host, port))) return;
    await giveNotice(orm, { name: notice, kind: 'replyPort', says }, 3 * looksEvery);
  };
  const stop = every(looksEvery, look, logger);
  return {
    port,
    async close() {
      await stop();
      await receiver?.close();
    },
  };
}

/** Null where something else has the port. */
async function opened(services: CourseServices, options: ReceiverOptions): Promise<Receiver | null> {
  try {
    return await openReceiver(services, options);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EADDRINUSE') return null;
    throw error;
  }
}

/** Whether what listens there greets as a receiver of Zest Bell. */
function isReceiver(host: string, port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = connect(port, host);
    const told = (isOurs: boolean) => {
      socket.destroy();
      resolve(isOurs);
    };
    socket.setTimeout(GREETS_WITHIN, () => told(false));
    socket.once('error', () => told(false));
    socket.once('data', (greeting) => told(greeting.toString('latin1').includes(RECEIVER_BANNER)));
  });
}
