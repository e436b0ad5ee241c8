/** What a course holds at most, the same at every door: dialogs, imports, scenario files and routes (engine §6). */
export const BOUNDS = {
  /** Days from the first to the last. */
  days: 800,
  firstDay: '1990-01-01',
  lastDay: '2059-12-31',
  breaks: 60,
  people: 50_000,
  contacts: 20,
  /** Own columns of one person. */
  fields: 60,
  items: 5000,
  topics: 200,
  extensions: 200,
  excused: 5000,
  rules: 1000,
  /** Characters of a name or a title, which is one line. */
  line: 200,
} as const;
