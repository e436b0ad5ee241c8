/** Work that a request sets off, and that continues after the answer. */
import type { Logger } from 'pino';
import { byItself, elsewhere } from '../turns/requestQueue.ts';

/** How long an answer waits to tell as much as it can of what was set off, in ms. */
const PATIENCE = 3_000;

/**
 * Begins `work`, and waits for it at most `patience` ms. Earlier saves are kept: a failure is logged and refuses nothing.
 */
export async function setOff(logger: Logger, work: () => Promise<unknown>, patience = PATIENCE): Promise<void> {
  const done = byItself(work).catch((error: unknown) => logger.error({ err: error }, 'what was set off has failed'));
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<void>((resolve) => (timer = setTimeout(resolve, patience)));
  await elsewhere(() => Promise.race([done, late]));
  clearTimeout(timer);
}
