/** The places, in their order; the digit of its place in the list opens each. */
export type PlacePath = 'today' | 'students' | 'rules' | 'wording' | 'tray' | 'log' | 'replay' | 'course';

export interface PlaceInCourse {
  readonly path: PlacePath;
  readonly name: string;
  /** What it is for, in one line. */
  readonly about: string;
}

export const PLACES: readonly PlaceInCourse[] = [
  {
    path: 'today',
    name: 'Today',
    about: 'What is waiting for you, who is falling through, and what happened since you last looked.',
  },
  {
    path: 'students',
    name: 'Students',
    about: 'Every student in one table, with the columns you choose. Pick students and write to them.',
  },
  { path: 'rules', name: 'Rules', about: 'Whom Zest Bell looks for, when it looks, and what it sends.' },
  { path: 'wording', name: 'Wording', about: 'The messages that your rules send.' },
  { path: 'tray', name: 'Tray', about: 'Nudges that are waiting for your decision, each with the reason why.' },
  { path: 'log', name: 'Send log', about: 'Every nudge: what was sent, why, and what came back.' },
  {
    path: 'replay',
    name: 'Replay',
    about: 'What a rule would have done all term, and how well it finds those you worry about.',
  },
  { path: 'course', name: 'Course', about: 'Limits, sender, people, items, calendar and data of this course.' },
];
