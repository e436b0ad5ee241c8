/** Rows of a sheet of people that name nobody ([F4]): averages at its foot, and the row of points possible. */
import { tidy } from './names.ts';

const STATISTICS = new Set([
  ...[
    'average',
    'avg',
    'mean',
    'median',
    'min',
    'minimum',
    'max',
    'maximum',
    'high',
    'highest',
    'low',
    'lowest',
    'total',
  ],
  ...['count', 'n', 'sd', 'stdev', 'std dev', 'std deviation', 'standard deviation'],
  ...['class', 'mean', 'average', 'total'].flatMap((of) =>
    ['average', 'mean', 'median', 'score', 'points'].map((what) => `${of} ${what}`),
  ),
]);
const POSSIBLE = new Set([
  ...['points possible', 'possible points', 'possible', 'out of', 'max points', 'maximum points', 'points'],
]);

/** What a name represents that is nobody's; null for somebody. */
export function nobodyOf(said: string): 'statistic' | 'possible' | null {
  if (said.length > 40) return null;
  const plain = tidy(said.split(':').join(' ')).toLowerCase();
  if (POSSIBLE.has(plain)) return 'possible';
  return STATISTICS.has(plain) ? 'statistic' : null;
}
