/**
 * How often a property is tried. `npm test` keeps to a fixed seed and a small number, so that it is quick and repeatable;
 * `npm run test:long` (ZEST_RUNS=25) tries each many times more often, from a seed of its own that a failure prints;
 * `npm run mutate` (ZEST_RUNS=0.1) a few times, as it runs them for every fault.
 */
export function runs(seed: number, numRuns: number): { seed?: number; numRuns: number } {
  const factor = Number(process.env['ZEST_RUNS'] ?? 1);
  return factor > 1 ? { numRuns: numRuns * factor } : { seed, numRuns: Math.ceil(numRuns * factor) };
}
