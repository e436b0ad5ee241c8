/** What an instructor has in mind when they look for a measure: groups by intent, a line of help, and words to find it by. */
import type { MeasureFamily, MeasureName } from '@zest-bell/core/measures';

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
  daysSinceSignIn: { help: 'did not sign in to the learning platform', also: 'login absent inactive' },
  daysSinceVisit: { help: 'did not visit this course', also: 'absent away inactive quiet access gap' },
  daysSinceParticipation: { help: 'visited, but did no work', also: 'passive lurking activity practice post' },
  longestGap: { help: 'how long they stayed away, even if they are back', also: 'returned came back absence gap' },
  visits: { help: 'how often they visited', also: 'sittings sessions frequency count login' },
  visitsVsClass: { help: 'much more or less often than the class', also: 'compared average mean others' },
  visitsChange: {
    help: 'more or less often than in the days before',
    also: 'less active drop trend fading decline fewer',
  },
  postsChange: {
    help: 'more or fewer posts than in the days before',
    also: 'less active drop trend quieter fewer discussion',
  },
  opens: { help: 'a page, a file or a task', also: 'viewed read syllabus content access never opened' },
  share: {
    help: 'how much of several items was opened, practiced, submitted or posted in',
    also: 'percentage part used progress practice',
  },
  submitted: { help: 'turned in or not', also: 'done turned in missing submission nothing' },
  hoursUntilDue: { help: 'before it is due, or past it', also: 'deadline due date reminder soon late' },
  dueSoon: { help: 'not done yet and due soon', also: 'deadline reminder closes tomorrow' },
  missing: { help: 'past due and not done', also: 'overdue not submitted open work' },
  late: { help: 'done, but after the due date', also: 'overdue tardy' },
  onTimeShare: { help: 'of the work that was due', also: 'punctual percentage timely' },
  daysAwaitingGrade: { help: 'submitted and not graded yet', also: 'ungraded feedback waiting' },
  score: { help: 'of one quiz or assignment, in %', also: 'result grade percent failed passed mastery' },
  points: { help: 'of one quiz or assignment', also: 'result grade score' },
  criterion: { help: 'one row of a rubric', also: 'rubric criterion points' },
  latestScore: { help: 'of the work that was graded last', also: 'result grade recent quiz praise' },
  daysSinceGrade: { help: 'since anything was graded', also: 'recent fresh result' },
  lowScores: { help: 'how many scores are below a value', also: 'failed weak several' },
  highScores: { help: 'how many scores reach a value', also: 'strong praise several' },
  courseGrade: { help: 'all graded work so far', also: 'overall average total standing mark' },
  groupGrade: { help: 'the grade of one group of items', also: 'category average quizzes labs' },
  gradeVsClass: { help: 'above or below the class mean', also: 'average compared others mean below under' },
  gradeChange: { help: 'rising or falling over a number of days', also: 'drop trend improved decline' },
  posts: { help: 'how many posts they wrote', also: 'forum discussion replies written' },
  streak: { help: 'how many in a row were done or missed', also: 'consecutive run every discussion' },
  absences: { help: 'missed live sessions', also: 'attendance absent class lecture' },
  daysEnrolled: { help: 'since they enrolled', also: 'new started weeks after enrollment' },
  completed: { help: 'an item, or the whole course', also: 'finished done complete' },
  field: { help: 'a column that you imported', also: 'import spreadsheet custom tag' },
};
