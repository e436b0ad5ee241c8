/** What an instructor has in mind when they look for a measure: groups by intent, a line of help, and words to find it by. */
import type { MeasureFamily, MeasureName } from '@zest-bell/core';

export const FAMILIES: Readonly<Record<MeasureFamily, string>> = {
  away: 'Away',
  content: 'Content',
  work: 'Work',
  grades: 'Grades',
  discussion: 'Discussion',
  attendance: 'Attendance',
  columns: 'Your own columns',
};

export interface MeasureHelp {
  readonly help: string;
  /** Other words somebody may type. */
  readonly also: string;
}

export const MEASURE_HELP: Readonly<Record<MeasureName, MeasureHelp>> = {
  daysSinceSignIn: { help: 'not on the platform at all', also: 'login absent inactive' },
  daysSinceVisit: { help: 'not in this course', also: 'absent away inactive quiet access gap' },
  daysSinceParticipation: { help: 'looked around, but did nothing', also: 'passive lurking activity practice post' },
  longestGap: { help: 'how long they stayed away, also when they are back', also: 'returned came back absence gap' },
  visits: { help: 'how often they came', also: 'sittings sessions frequency count login' },
  visitsVsClass: { help: 'much more or less often than the others', also: 'compared average mean others' },
  opens: { help: 'a page, a file or a task', also: 'viewed read syllabus content access never opened' },
  share: {
    help: 'how much of several was opened, practised, submitted or posted in',
    also: 'percentage part used progress practice',
  },
  submitted: { help: 'handed in or not', also: 'done turned in missing submission nothing' },
  hoursUntilDue: { help: 'before it is due, or past it', also: 'deadline due date reminder soon late' },
  dueSoon: { help: 'not done and due within some hours', also: 'deadline reminder closes tomorrow' },
  missing: { help: 'past due and not done', also: 'overdue not submitted open work' },
  late: { help: 'done, but after the due date', also: 'overdue tardy' },
  onTimeShare: { help: 'of what was due', also: 'punctual percentage timely' },
  daysAwaitingGrade: { help: 'submitted and not graded yet', also: 'ungraded feedback waiting' },
  score: { help: 'of one quiz or assignment, in %', also: 'result grade percent failed passed mastery' },
  points: { help: 'of one quiz or assignment', also: 'result grade score' },
  criterion: { help: 'one row of a rubric', also: 'rubric criterion points' },
  latestScore: { help: 'of whatever was graded last', also: 'result grade recent quiz praise' },
  daysSinceGrade: { help: 'since anything was graded', also: 'recent fresh result' },
  lowScores: { help: 'how many scored under a value', also: 'failed weak several' },
  highScores: { help: 'how many scored a value or more', also: 'strong praise several' },
  courseGrade: { help: 'all graded work so far', also: 'overall average total standing mark' },
  groupGrade: { help: 'the grade of one group of items', also: 'category average quizzes labs' },
  gradeVsClass: { help: 'above or under the class mean', also: 'average compared others mean below' },
  gradeChange: { help: 'rising or falling over some days', also: 'drop trend improved decline' },
  posts: { help: 'how many they wrote', also: 'forum discussion replies written' },
  streak: { help: 'how many in a row, done or missed', also: 'consecutive run every discussion' },
  absences: { help: 'from live sessions', also: 'attendance absent class lecture' },
  daysEnrolled: { help: 'since they joined', also: 'new started weeks after enrolment' },
  completed: { help: 'an item, or the whole course', also: 'finished done complete' },
  field: { help: 'a column you brought in', also: 'import spreadsheet custom tag' },
};
