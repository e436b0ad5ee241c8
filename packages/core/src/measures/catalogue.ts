/** Every measure, one line each. Adding one here adds it to conditions, evidence, merge fields and charts. */
import { courseGrade } from './courseGrade.ts';
import { daysSinceSignIn, daysSinceVisit } from './daysSince.ts';
import { hoursUntilDue } from './hoursUntilDue.ts';
import type { Measure, MeasureName } from './measure.ts';
import { missing } from './missing.ts';
import { opens } from './opens.ts';
import { score } from './score.ts';
import { submitted } from './submitted.ts';

export const CATALOGUE: Readonly<Record<MeasureName, Measure>> = {
  daysSinceVisit,
  daysSinceSignIn,
  opens,
  submitted,
  missing,
  hoursUntilDue,
  score,
  courseGrade,
};
