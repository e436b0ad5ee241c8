/** The titles of the send log as a table: its export has them, and by them such a file is known when it is brought back ([F25]). */
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
