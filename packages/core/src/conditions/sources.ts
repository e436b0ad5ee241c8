/** Which sources of data a condition depends on, so that a rule waits for those alone when one has been silent for too long. */
import { SOURCES, type SourceName } from '../course/sources.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import type { MeasureName } from '../measures/values/measure.ts';
import { leavesOf, type Condition } from './condition.ts';

/** Both: whether somebody waits for a grade depends on when they submitted, too. */
const BOTH: ReadonlySet<MeasureName> = new Set(['daysAwaitingGrade']);

function sourcesOfMeasure(name: MeasureName): readonly SourceName[] {
  if (BOTH.has(name)) return ['activity', 'grades'];
  if (name === 'daysEnrolled' || name === 'hoursUntilDue') return ['roster'];
  switch (CATALOGUE[name].family) {
    case 'grades':
      return ['grades'];
    case 'attendance':
      return ['attendance'];
    case 'columns':
      return ['roster'];
    case 'away':
    case 'content':
    case 'work':
    case 'discussion':
      return ['activity'];
  }
}

/** In the order of the sources. */
export function sourcesOf(condition: Condition): readonly SourceName[] {
  const found = new Set(leavesOf(condition).flatMap((leaf) => sourcesOfMeasure(leaf.measure)));
  return SOURCES.filter((source) => found.has(source));
}
