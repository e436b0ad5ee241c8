/** The part of the reference library that tests ask. */
declare module 'jstat' {
  const jstat: {
    readonly normal: { inv(p: number, mean: number, deviation: number): number };
    mean(values: readonly number[]): number;
    /** At each of `at` in 0 … 1; with both parameters 1 it is Hyndman and Fan’s type 7. */
    quantiles(values: readonly number[], at: readonly number[], alpha: number, beta: number): number[];
    min(values: readonly number[]): number;
    max(values: readonly number[]): number;
    /** Counts in so many equal bins from the least to the greatest value. */
    histogram(values: readonly number[], bins: number): number[];
  };
  export default jstat;
}
