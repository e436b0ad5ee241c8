/** Keeps the thread from anything else, in ms. */
export function busy(ms: number): void {
  for (const until = performance.now() + ms; performance.now() < until;);
}
