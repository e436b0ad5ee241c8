import { byItself } from '../turns/requestQueue.ts';

/** Small writes that no request waits for, such as when something was last used: one of a kind at a time, and none is missed for long. */
const running = new WeakMap<object, Set<string>>();

/** `owner` keeps what is of one database apart from another. One that fails is tried again by the next caller. */
export function runBeside(owner: object, kind: string, work: () => Promise<unknown>): void {
  const kinds = running.get(owner) ?? new Set();
  running.set(owner, kinds);
  if (kinds.has(kind)) return;
  kinds.add(kind);
  void byItself(work)
    .catch(() => undefined)
    .finally(() => kinds.delete(kind));
}
