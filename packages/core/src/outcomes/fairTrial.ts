/**
 * A fair trial of a wording's texts (engine O5): which text a student gets is drawn by lot, in blocks that keep the texts level, and
 * two texts are told apart only when chance hardly explains the difference.
 */
import { differenceOf, wilson, type Proportion } from './proportion.ts';
import { quantile } from './quantile.ts';

/** Differences that one may want to see, in points of a hundred. */
export const TRIAL_POINTS = [10, 20, 30] as const;

/** How often each text is in a block. */
const PER_TEXT = 2;

/**
 * The texts, by their index, of the first `count` students of a course, in the order in which their first nudges come. The same
 * seed gives the same draws, and more of them begin with the same ones. Throws a RangeError unless there are two texts or more.
 */
export function drawTexts(seed: string, texts: number, count: number): number[] {
  if (!Number.isInteger(texts) || texts < 2) throw new RangeError(`${texts} texts`);
  const next = generator(seed);
  const drawn: number[] = [];
  while (drawn.length < count) {
    const block = Array.from({ length: PER_TEXT * texts }, (_, i) => i % texts);
    // R. Durstenfeld, Communications of the ACM 7 (1964), 420: every order is as likely as any other.
    for (let i = block.length - 1; i > 0; i--) {
      const j = Math.floor(next() * (i + 1));
      [block[i], block[j]] = [block[j]!, block[i]!];
    }
    drawn.push(...block);
  }
  return drawn.slice(0, count);
}

/** Numbers in [0, 1) from a seed: FNV-1a over its characters, then the generator known as mulberry32 (both public domain, from memory). */
function generator(seed: string): () => number {
  let state = 0x811c9dc5;
  for (let i = 0; i < seed.length; i++) state = Math.imul(state ^ seed.charCodeAt(i), 0x01000193) >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** One student's first nudge in the trial. */
export interface TrialNudge {
  readonly text: number;
  /** Within 14 days (engine R13). */
  readonly returned: boolean;
  /** Whether the 14 days are over. */
  readonly over: boolean;
}

export interface TrialPair {
  readonly a: number;
  readonly b: number;
  /** The share of a minus the share of b, with its interval at the level of this many pairs; null while one has nobody. */
  readonly difference: { readonly value: number; readonly low: number; readonly high: number } | null;
  /** Whether the interval leaves out zero. */
  readonly differ: boolean;
}

export interface TrialResult {
  /** By text: how many came back, of those who are counted. */
  readonly texts: readonly Proportion[];
  /** Not returned, and the 14 days are not over: not counted yet. */
  readonly open: readonly number[];
  readonly pairs: readonly TrialPair[];
}

export function trialResult(nudges: readonly TrialNudge[], texts: number): TrialResult {
  const counted = nudges.filter((n) => n.returned || n.over);
  const shares = Array.from({ length: texts }, (_, text) => {
    const of = counted.filter((n) => n.text === text);
    return wilson(of.filter((n) => n.returned).length, of.length);
  });
  const open = shares.map((_, text) => nudges.filter((n) => n.text === text && !n.returned && !n.over).length);
  const couples = shares.flatMap((_, a) => shares.slice(a + 1).map((__, i) => [a, a + 1 + i] as const));
  const z = quantile(1 - 0.05 / Math.max(1, couples.length) / 2);
  const pairs = couples.map(([a, b]): TrialPair => {
    const [pa, pb] = [shares[a]!, shares[b]!];
    if (pa.of === 0 || pb.of === 0) return { a, b, difference: null, differ: false };
    const { low, high } = differenceOf(pa, pb, z);
    return { a, b, difference: { value: pa.count / pa.of - pb.count / pb.of, low, high }, differ: low > 0 || high < 0 };
  });
  return { texts: shares, open, pairs };
}

/** Normal quantiles of a two-sided 5% and of 80% power, as engine O5 writes them. */
const Z_LEVEL = 1.959964;
const Z_POWER = 0.841621;

/**
 * Students that each text needs so that a trial sees a share of `p2` instead of `p1` with 80% power at a two-sided 5%. Both lie
 * in 0 … 1 and differ; throws a RangeError otherwise.
 */
export function studentsNeeded(p1: number, p2: number): number {
  const isShare = (p: number) => p >= 0 && p <= 1;
  if (!isShare(p1) || !isShare(p2) || p1 === p2) throw new RangeError(`${p1} and ${p2}`);
  const mean = (p1 + p2) / 2;
  const spread = Z_LEVEL * Math.sqrt(2 * mean * (1 - mean)) + Z_POWER * Math.sqrt(p1 * (1 - p1) + p2 * (1 - p2));
  return Math.ceil(spread ** 2 / (p1 - p2) ** 2);
}

/** Differences, in points, by which a text can be better than a share of `base`. */
export const reachable = (base: number): readonly (typeof TRIAL_POINTS)[number][] =>
  TRIAL_POINTS.filter((points) => Math.round(100 * base) + points <= 100);

/** The same for a difference of so many points above a share of `base`, or below it where there is no room above. */
export function neededFor(base: number, points: number): number {
  const other = base + points / 100;
  return studentsNeeded(base, other <= 1 ? other : base - points / 100);
}

/** The state of a trial. */
export const TRIAL_STANDINGS = ['interim', 'done'] as const;

/** Done when each text has had its students, or it was ended and nothing of it is open: until then a look is an interim one. */
export const trialStanding = (
  { texts, open }: Pick<TrialResult, 'texts' | 'open'>,
  trial: { readonly needed: number; readonly ended: boolean },
): (typeof TRIAL_STANDINGS)[number] =>
  texts.every((t) => t.of >= trial.needed) || (trial.ended && open.every((n) => n === 0)) ? 'done' : 'interim';
