/** Every measure, one line each. Adding one here adds it to conditions, evidence, merge fields and charts. */
import { absences } from './absences.ts';
import { completed } from './completed.ts';
import { courseGrade } from './courseGrade.ts';
import { daysAwaitingGrade } from './daysAwaitingGrade.ts';
import { daysEnrolled } from './daysEnrolled.ts';
import { daysSinceParticipation, daysSinceSignIn, daysSinceVisit } from './daysSince.ts';
import { dueSoon } from './dueSoon.ts';
import { field } from './field.ts';
import { gradeChange } from './gradeChange.ts';
import { daysSinceGrade, highScores, latestScore, lowScores } from './gradesOver.ts';
import { gradeVsClass } from './gradeVsClass.ts';
import { groupGrade } from './groupGrade.ts';
import { hoursUntilDue } from './hoursUntilDue.ts';
import { criterion, points } from './itemGrade.ts';
import { late } from './late.ts';
import { longestGap } from './longestGap.ts';
import type { Measure, MeasureName } from './measure.ts';
import { missing } from './missing.ts';
import { onTimeShare } from './onTimeShare.ts';
import { opens } from './opens.ts';
import { posts } from './posts.ts';
import { score } from './score.ts';
import { share } from './share.ts';
import { streak } from './streak.ts';
import { submitted } from './submitted.ts';
import { visits } from './visits.ts';
import { visitsVsClass } from './visitsVsClass.ts';

export const CATALOGUE: Readonly<Record<MeasureName, Measure>> = {
  daysSinceSignIn,
  daysSinceVisit,
  daysSinceParticipation,
  longestGap,
  visits,
  visitsVsClass,
  opens,
  share,
  submitted,
  hoursUntilDue,
  dueSoon,
  missing,
  late,
  onTimeShare,
  daysAwaitingGrade,
  score,
  points,
  criterion,
  latestScore,
  daysSinceGrade,
  lowScores,
  highScores,
  courseGrade,
  groupGrade,
  gradeVsClass,
  gradeChange,
  posts,
  streak,
  absences,
  daysEnrolled,
  completed,
  field,
};
