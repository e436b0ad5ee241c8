/** A figure beside its goal, as every bench prints it. */
const WIDE = 66;

interface Goal {
  readonly unit: string;
  /** The figure may be so high, or must be so high. */
  readonly atMost?: number;
  readonly atLeast?: number;
}

/** Prints what was measured, the goal, how much of the goal that is, and whether it is missed. */
export function besideGoal(what: string, figure: number, { unit, atMost, atLeast }: Goal): void {
  const goal = (atMost ?? atLeast)!;
  const isMissed = atMost === undefined ? figure < goal : figure > goal;
  const words = `${written(figure)} ${unit}, goal ${atMost === undefined ? 'at least' : 'at most'} ${written(goal)}`;
  console.log(`  ${what.padEnd(WIDE)} ${words}: ${(figure / goal).toFixed(2)}${isMissed ? '  MISSED' : ''}`);
}

const written = (n: number): string =>
  (Math.abs(n) < 10 ? Number(n.toFixed(2)) : Math.round(n)).toLocaleString('en-US');

export const median = (numbers: readonly number[]): number => numbers.toSorted((a, b) => a - b)[numbers.length >> 1]!;
