/**
 * Which letters students answer, when, and in what words: some do, within a day and a half, as their habits go; one of them
 * has an automatic reply. Always the same from the same seed and the same letters.
 */
import { HOUR, type Instant, type Person } from '@zest-bell/core';
import type { StoredLetter } from '../mailroom/letters.ts';
import type { AnswerKind } from '../mailroom/answers.ts';
import type { Habit } from './habits.ts';
import { between, chance } from './random.ts';

export interface CampusAnswer {
  readonly letter: StoredLetter;
  readonly kind: Exclude<AnswerKind, 'bounce'>;
  readonly name: string;
  readonly text: string;
  readonly at: Instant;
}

export interface CorrespondenceOptions {
  readonly seed: string;
  readonly people: readonly Person[];
  readonly habits: Readonly<Record<string, Habit>>;
  /** Who has an automatic reply on. */
  readonly away: readonly string[];
  /** A mailbox, in order of arrival. */
  readonly letters: (address: string) => readonly StoredLetter[];
}

/** The chance that a letter is answered: praise and a hand held out get more answers than a reminder. */
const ANSWERS: Readonly<Record<Habit, number>> = {
  steady: 0.14,
  nightOwl: 0.08,
  fading: 0.12,
  returning: 0.22,
  struggling: 0.3,
  excelling: 0.34,
};

const WORDS: Readonly<Record<Habit, readonly string[]>> = {
  steady: [
    'Thanks for the heads-up. I am on it this evening.',
    'Got it, thank you. I had the date wrong in my calendar.',
  ],
  nightOwl: ['Sorry, I work late shifts. I will hand it in tonight.', 'Saw this at 1 a.m. as usual. Will do, thanks!'],
  fading: [
    'I have had extra shifts at the yard and lost the thread. Is it too late to catch up?',
    'Honestly I was thinking of dropping the course. Could we talk?',
  ],
  returning: [
    'We were at sea without a signal. I am back and will catch up this week.',
    'Thank you for asking. Family things; I will be back on Monday.',
  ],
  struggling: [
    'I do the drills and still mix up set and drift. Could I come by on Tuesday?',
    'Thank you for writing. I study for this every evening and do not know what I am doing wrong.',
  ],
  excelling: ['Thank you, that made my day!', 'That is kind. I would be glad to help in the watch log.'],
};

/** Longer than any answer takes. */
const LATEST = 30 * HOUR;

export class Correspondence {
  private readonly options: CorrespondenceOptions;

  constructor(options: CorrespondenceOptions) {
    this.options = options;
  }

  /** The answers written in `(from, until]`, in order of time. */
  between(from: Instant, until: Instant): CampusAnswer[] {
    return this.since(from)
      .filter((a) => a.at <= until)
      .sort((a, b) => a.at - b.at);
  }

  /** When the next answer after an instant is written, or null. */
  next(after: Instant): Instant | null {
    const times = this.since(after).map((a) => a.at);
    return times.length === 0 ? null : Math.min(...times);
  }

  private since(from: Instant): CampusAnswer[] {
    return this.options.people.flatMap((person) => {
      if (person.role !== 'student' || !person.email) return [];
      return this.options.letters(person.email).flatMap((letter) => {
        if (letter.at <= from - LATEST) return [];
        const answer = this.answerTo(letter, person);
        return answer && answer.at > from ? [answer] : [];
      });
    });
  }

  private answerTo(letter: StoredLetter, person: Person): CampusAnswer | null {
    const { seed, habits, away } = this.options;
    const name = `${person.firstName} ${person.lastName}`;
    if (away.includes(person.id)) {
      const text = 'I am at sea until Friday and read mail when there is a signal.';
      return { letter, kind: 'outOfOffice', name, text, at: letter.at + HOUR / 60 };
    }
    const habit = habits[person.id] ?? 'steady';
    if (chance(seed, person.id, letter.at, 'heart') >= ANSWERS[habit]) return null;
    const words = WORDS[habit];
    const text = words[Math.floor(chance(seed, person.id, letter.at, 'words') * words.length)]!;
    const after = Math.round(between(0.4, LATEST / HOUR - 1, seed, person.id, letter.at, 'after') * HOUR);
    return { letter, kind: 'answer', name, text, at: letter.at + after };
  }
}
