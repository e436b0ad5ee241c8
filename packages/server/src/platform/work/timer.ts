import type { Logger } from 'pino';

/** Runs `work` again and again, `ms` after it last ended; a failure is logged and tried again. Returns how to stop. */
export function every(ms: number, work: () => Promise<unknown>, logger: Logger): () => Promise<void> {
  let stopped = false;
  let timer: NodeJS.Timeout;
  let running: Promise<void> = Promise.resolve();
  const turn = () => {
    running = work()
      .then(() => undefined)
      .catch((error: unknown) => logger.error({ err: error }, 'background work failed'))
      .finally(() => {
        if (!stopped) timer = setTimeout(turn, ms);
      });
  };
  timer = setTimeout(turn, 0);
  return () => {
    stopped = true;
    clearTimeout(timer);
    return running;
  };
}
