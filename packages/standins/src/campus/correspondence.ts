/**
 * Which letters students answer, when, and in what words: some do, within a day and a half, as their habits go; one of them
 * has an automatic reply. Always the same from the same seed and the same letters.
 */
import { HOUR, type Instant } from '@zest-bell/core/time';
import type { Person } from '@zest-bell/core/course';
import type { AnswerKind } from '@zest-bell/core/exchange';
import type { StoredLetter } from '../mailroom/letters.ts';
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
    'Thank you. I had planned it for tomorrow, so you will have it then.',
    'You are right, that one slipped by me. Doing it now.',
    'Thanks! I was not sure where to hand it in. I found it now.',
  ],
  nightOwl: [
    'Sorry, I work late shifts. I will hand it in tonight.',
    'Saw this at 1 a.m. as usual. Will do, thanks!',
    'My shift ends at two, so it will be a late one. Thanks for asking.',
    'Thank you, I do most of it at night. Is the discussion open on Sundays?',
  ],
  fading: [
    'I have had extra shifts at the yard and lost the thread. Is it too late to catch up?',
    'Honestly I was thinking of dropping the course. Could we talk?',
    'Thank you for noticing. I fell behind in week three and did not know how to start again.',
    'My car broke down and I lost two weeks. What should I do first?',
    'I am still here, only slow. May I hand in the last lab this weekend?',
  ],
  returning: [
    'We were at sea without a signal. I am back and will catch up this week.',
    'Thank you for asking. Family things; I will be back on Monday.',
    'I was ill and am better now. Is there a list of what I missed?',
    'Thanks, I was traveling for work. I read your message at the gate and start tonight.',
  ],
  struggling: [
    'I do the drills and still mix up set and drift. Could I come by on Tuesday?',
    'Thank you for writing. I study for this every evening and do not know what I am doing wrong.',
    'I ran out of time again. Is there a way to practice with a clock?',
    'Could you look at one of my answers with me? I think I misread the tables.',
    'I would like the ten minutes. Thursday after class works for me.',
  ],
  excelling: [
    'Thank you, that made my day!',
    'That is kind. I would be glad to help in the watch log.',
    'Thanks! Is there something to read beyond the chapter?',
  ],
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
      return this.options.letters(person.email).flatMap((letter, nth) => {
        if (letter.at <= from - LATEST) return [];
        const answer = this.answerTo(letter, nth, person);
        return answer && answer.at > from ? [answer] : [];
      });
    });
  }

  private answerTo(letter: StoredLetter, nth: number, person: Person): CampusAnswer | null {
    const { seed, habits, away } = this.options;
    const name = `${person.firstName} ${person.lastName}`;
    if (away.includes(person.id)) {
      const text = 'I am at sea until Friday and read mail when there is a signal.';
      return { letter, kind: 'outOfOffice', name, text, at: letter.at + HOUR / 60 };
    }
    const habit = habits[person.id] ?? 'steady';
    if (chance(seed, person.id, letter.at, 'heart') >= ANSWERS[habit]) return null;
    const words = WORDS[habit];
    const text = words[(2 * this.placeAmong(habit, person) + nth) % words.length]!;
    const after = Math.round(between(0.4, LATEST / HOUR - 1, seed, person.id, letter.at, 'after') * HOUR);
    return { letter, kind: 'answer', name, text, at: letter.at + after };
  }

  /** A student's place among those of one habit: neighbors answer in other words. */
  private placeAmong(habit: Habit, person: Person): number {
    const { people, habits } = this.options;
    return people.filter((p) => (habits[p.id] ?? 'steady') === habit).findIndex((p) => p.id === person.id);
  }
}
