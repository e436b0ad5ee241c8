/** The eight places, in order; a digit key opens each. */
export interface Place {
  readonly path: string;
  readonly name: string;
  /** What will be there, for a place that is not built yet. */
  readonly coming?: string;
  /** Where to go meanwhile. */
  readonly leads?: { readonly path: string; readonly words: string };
}

export const PLACES: readonly Place[] = [
  { path: 'today', name: 'Today' },
  {
    path: 'lookout',
    name: 'Lookout',
    coming: 'Every student in one table whose columns you choose; brush a column and write to those it leaves.',
    leads: { path: 'rules', words: 'See who each rule reaches now' },
  },
  { path: 'rules', name: 'Rules' },
  { path: 'wording', name: 'Wording' },
  {
    path: 'tray',
    name: 'Tray',
    coming: 'Nudges that wait for your decision, each with its evidence.',
    leads: { path: 'log?view=held', words: 'Decide on held nudges in the Send log' },
  },
  { path: 'log', name: 'Send log' },
  {
    path: 'replay',
    name: 'Replay',
    coming: 'What a rule would have done all term, day by day, and what another threshold would do.',
    leads: { path: 'rules', words: 'Open a rule and drag its threshold' },
  },
  { path: 'course', name: 'Course' },
];
