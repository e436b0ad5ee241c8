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
  round: 'Round',
} as const;
