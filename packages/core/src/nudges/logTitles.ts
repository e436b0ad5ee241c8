/** Column titles of the exported send log. An import recognizes the file by them ([F25]). */
export const LOG_TITLES = {
  when: 'When',
  studentId: 'Student ID',
  student: 'Student',
  rule: 'Rule',
  step: 'Step',
  state: 'State',
  why: 'Why',
  subject: 'Subject',
  messages: 'Messages',
  cameBack: 'What came back',
  round: 'Check',
} as const;

/** What a column was called in files of earlier versions. */
export const EARLIER_LOG_TITLES: Readonly<Record<string, string>> = { Round: LOG_TITLES.round };
