/** Every measure, one line each. Adding one here adds it to conditions, evidence, merge fields and charts. */
import { absences } from './absences.ts';
import { completed } from './completed.ts';
import { courseGrade } from './courseGrade.ts';
import { criterion } from './criterion.ts';
import { daysAwaitingGrade } from './daysAwaitingGrade.ts';
import { daysEnrolled } from './daysEnrolled.ts';
import { daysSinceGrade } from './daysSinceGrade.ts';
import { daysSinceParticipation } from './daysSinceParticipation.ts';
import { daysSinceSignIn } from './daysSinceSignIn.ts';
import { daysSinceVisit } from './daysSinceVisit.ts';
import { dueSoon } from './dueSoon.ts';
import { field } from './field.ts';
import { gradeChange } from './gradeChange.ts';
import { gradeVsClass } from './gradeVsClass.ts';
import { groupGrade } from './groupGrade.ts';
import { hoursUntilDue } from './hoursUntilDue.ts';
import { highScores } from './highScores.ts';
import { late } from './late.ts';
import { latestScore } from './latestScore.ts';
import { longestGap } from './longestGap.ts';
import { lowScores } from './lowScores.ts';
import type { Measure, MeasureName } from '../values/measure.ts';
import { missing } from './missing.ts';
import { onTimeShare } from './onTimeShare.ts';
import { opens } from './opens.ts';
import { points } from './points.ts';
import { posts } from './posts.ts';
import { postsChange } from './postsChange.ts';
import { score } from './score.ts';
import { share } from './share.ts';
import { streak } from './streak.ts';
import { submitted } from './submitted.ts';
import { visits } from './visits.ts';
import { visitsChange } from './visitsChange.ts';
import { visitsVsClass } from './visitsVsClass.ts';

export const CATALOGUE: Readonly<Record<MeasureName, Measure>> = {
  daysSinceSignIn,
  daysSinceVisit,
  daysSinceParticipation,
  longestGap,
  visits,
  visitsVsClass,
  visitsChange,
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
  postsChange,
  streak,
  absences,
  daysEnrolled,
  completed,
  field,
};
