/** Six ways of being a student, as chances the simulator draws from. */
export const HABITS = ['steady', 'nightOwl', 'fading', 'returning', 'struggling', 'excelling'] as const;
export type Habit = (typeof HABITS)[number];

export interface HabitTraits {
  /** The chance of coming to the course on a working day. */
  readonly comes: number;
  /** Local hours between which a sitting begins; over 24 runs into the night. */
  readonly hours: readonly [from: number, to: number];
  /** The chance of doing an item that is due at all. */
  readonly does: number;
  /** How many hours before the due instant work is handed in; below zero is late. */
  readonly lead: readonly [least: number, most: number];
  /** Share of the points a graded item brings. */
  readonly scores: readonly [low: number, high: number];
  /** Attempts at each practice set. */
  readonly practises: number;
  /** The chance that a letter brings them back within two days. */
  readonly answersALetter: number;
}

export const TRAITS: Readonly<Record<Habit, HabitTraits>> = {
  steady: {
    comes: 0.62,
    hours: [9, 20],
    does: 0.96,
    lead: [4, 50],
    scores: [0.68, 0.93],
    practises: 2,
    answersALetter: 0.8,
  },
  nightOwl: {
    comes: 0.5,
    hours: [21, 26],
    does: 0.92,
    lead: [-3, 8],
    scores: [0.6, 0.9],
    practises: 1,
    answersALetter: 0.7,
  },
  fading: {
    comes: 0.5,
    hours: [10, 22],
    does: 0.9,
    lead: [-6, 20],
    scores: [0.3, 0.66],
    practises: 1,
    answersALetter: 0.4,
  },
  returning: {
    comes: 0.55,
    hours: [8, 22],
    does: 0.86,
    lead: [-10, 30],
    scores: [0.4, 0.8],
    practises: 1,
    answersALetter: 0.55,
  },
  struggling: {
    comes: 0.8,
    hours: [8, 22],
    does: 0.97,
    lead: [1, 30],
    scores: [0.25, 0.55],
    practises: 4,
    answersALetter: 0.9,
  },
  excelling: {
    comes: 0.85,
    hours: [7, 21],
    does: 1,
    lead: [20, 96],
    scores: [0.93, 1],
    practises: 3,
    answersALetter: 0.9,
  },
};
