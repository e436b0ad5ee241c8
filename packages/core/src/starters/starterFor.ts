/** Which starter's words fit a rule that looks for one thing: by what its measure is about. */
import type { MeasureCall } from '../measures/values/measure.ts';

/** The id of a starter with a first wording that claims only what the measure knows. */
export function starterFor({ measure, of }: Pick<MeasureCall, 'measure' | 'of'>): string {
  switch (measure) {
    case 'missing':
    case 'late':
    case 'onTimeShare':
    case 'submitted':
      return 'two-missing';
    case 'courseGrade':
    case 'groupGrade':
    case 'gradeVsClass':
    case 'latestScore':
    case 'gradeChange':
    case 'score':
    case 'lowScores':
      return 'under-mean';
    case 'share':
      return of === 'submit' ? 'two-missing' : 'away';
    default:
      return 'away';
  }
}
