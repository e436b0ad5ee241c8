import type { ImportKind, ReasonLeftOut, ChosenMeaning, VerbMeaning } from '@zest-bell/core/imports';

/** Kinds of files as an instructor calls them, and what one brings. */
export const KIND_WORDS: Readonly<Record<ImportKind, { readonly name: string; readonly about: string }>> = {
  roster: { name: 'Roster', about: 'People with their contacts, one row per person' },
  items: { name: 'Items', about: 'Assignments, quizzes and pages, one row per item' },
  gradebook: { name: 'Gradebook', about: 'Students down and items across, or one row per grade' },
  activity: { name: 'Activity', about: 'Visits, submissions and posts, one row per event' },
  attendance: { name: 'Attendance', about: 'Sessions across, or one row per entry' },
  lastSeen: { name: 'Last visits', about: 'When each student was there last, as a date or as an age' },
  columns: { name: 'Your own columns', about: 'A person and any columns, for rules and messages' },
  oneroster: { name: 'OneRoster', about: 'An export of your school’s records, as a zip or as single files' },
  xapi: { name: 'xAPI statements', about: 'Statements from a learning record store' },
  calendar: { name: 'Calendar', about: 'Breaks, and due dates of items by their titles' },
  scenario: { name: 'Scenario', about: 'A whole course in one file' },
};

/** Fields as a person calls them. */
export const FIELD_WORDS: Readonly<Record<string, string>> = {
  id: 'Id',
  person: 'Student id',
  firstName: 'First name',
  lastName: 'Last name',
  name: 'Whole name',
  email: 'Email address',
  role: 'Role',
  section: 'Section',
  active: 'Active',
  enrolledAt: 'Enrolled on',
  title: 'Title',
  kind: 'Kind',
  group: 'Group',
  points: 'Points',
  opensAt: 'Opens',
  dueAt: 'Due',
  url: 'Page address',
  topics: 'Topics',
  item: 'Item',
  at: 'Date and time',
  criterion: 'Criterion',
  status: 'Present, absent, late, or excused',
  eventId: 'Id of the event',
};

/** What a column of a sheet can be, beside the fields of a person. */
export const TOLD_WORDS: Readonly<Record<ChosenMeaning, string>> = {
  grade: 'Grades of an item',
  attendance: 'Attendance at a session',
  doneOn: 'Day on which an item was done',
  lastSeen: 'Last visit',
  own: 'Your own column',
  leftOut: 'Leave it out',
};

/** Why a column is left out. */
export const LEFT_OUT_WORDS: Readonly<Record<ReasonLeftOut, string>> = {
  told: 'you left it out',
  total: 'a computed total',
  empty: 'empty',
  noHeader: 'no column name',
  grading: 'dates of grading',
  remark: 'remarks',
  second: 'a second column of the same field',
  beside: 'another table',
  reason: 'reasons of an earlier refusal',
  reserved: 'nothing can be kept under this name',
  sendLog: 'of a send log',
  unread: 'not read yet',
};

/** What a verb of a statement can mean. */
export const MEANING_WORDS: Readonly<Record<VerbMeaning, string>> = {
  signIn: 'signed in',
  visit: 'visited the course',
  open: 'opened an item',
  practice: 'practiced',
  submit: 'submitted',
  post: 'posted',
  complete: 'completed',
  attend: 'attended',
  absent: 'was absent',
  score: 'was graded',
  nothing: 'nothing that counts',
};
