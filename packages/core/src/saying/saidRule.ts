/** What of a rule was said, and the sentence that says just that ([Y8]). */
import type { Condition } from '../conditions/condition.ts';
import { conditionParts, markedPart, plainPart, wordsOf, type SentencePart } from '../conditions/sentence.ts';
import type { Course } from '../course/course.ts';
import { rhythmWords, runWords } from '../rules/rhythmWords.ts';
import type { Audience, RecipientSpec, RepeatLimit, RuleWeight } from '../rules/rule.ts';
import { audienceWords, recipientWords, repeatParts, spellsFromWords, weightWords } from '../rules/sentence.ts';
import type { Instant } from '../time/instant.ts';
import { dateWordsIn } from '../time/typedDate.ts';
import { clockWords, listWords, plural } from '../time/words.ts';

/** A rhythm of which at least its start is known: the date that was said or the course's first, and the time that was said or 9:00. */
export interface SaidRhythm {
  readonly start: string;
  readonly rrule?: string | undefined;
  readonly until?: string | undefined;
}

/** The parts of a rule that were said, and no others. */
export interface SaidRule {
  readonly when?: Condition;
  readonly audience?: Audience;
  readonly rhythm?: SaidRhythm;
  readonly repeat?: Partial<RepeatLimit>;
  readonly weight?: RuleWeight;
  readonly spellsFrom?: Instant;
  readonly steps?: readonly { readonly to?: readonly RecipientSpec[] }[];
}

/** A part of what was said, and what of the rule it is about. */
export interface SaidPart extends SentencePart {
  readonly about: keyof SaidRule | 'frame';
}

function rhythmParts({ start, rrule, until }: SaidRhythm, course: Course): string[] {
  const day = start.slice(0, 10);
  const words = [
    rrule === undefined
      ? `at ${clockWords(start.slice(11))}`
      : rhythmWords({ start, rrule, until: until ?? null, skipBreaks: false }),
  ];
  const isFirst = day === course.start;
  if (until !== undefined && (!isFirst || until === day)) {
    words.push(runWords({ start, rrule: rrule ?? '', until, skipBreaks: false }, course));
  } else if (until !== undefined) words.push(`until ${dateWordsIn(until, course)}`);
  else if (!isFirst) words.push(`from ${dateWordsIn(day, course)}`);
  return words;
}

function recipientParts(steps: NonNullable<SaidRule['steps']>, course: Course): string[] {
  const parts: string[] = [];
  const to = steps[0]?.to;
  if (to?.includes('student')) {
    const others = to.filter((r) => r !== 'student');
    if (others.length > 0) parts.push(`copy ${recipientWords(others, course)}`);
    else parts.push('tell the student');
  } else if (to) parts.push(`tell ${recipientWords(to, course)} about each of them`);
  if (steps.length > 1) parts.push(`in ${plural(steps.length, 'step')}`);
  return parts;
}

/** What was said as a sentence, in the marked parts of every rule's sentence. */
export function saidParts(rule: SaidRule, course: Course): readonly SaidPart[] {
  const said: (readonly SaidPart[])[] = [];
  const add = (about: SaidPart['about'], parts: readonly SentencePart[]) =>
    said.push(parts.map((p) => ({ ...p, about })));
  const marked = (about: SaidPart['about'], all: readonly string[]) => all.forEach((w) => add(about, [markedPart(w)]));
  if (rule.rhythm) marked('rhythm', rhythmParts(rule.rhythm, course));
  const who = rule.audience && markedPart(audienceWords(rule.audience, course));
  if (rule.when) {
    const parts = conditionParts(rule.when, course);
    said.push([
      { ...(who ?? plainPart('students')), about: 'audience' },
      { ...plainPart(' who '), about: 'frame' },
      ...parts.map((p) => ({ ...p, about: 'when' as const })),
    ]);
  } else if (who) add('audience', [who]);
  if (rule.spellsFrom !== undefined) marked('spellsFrom', [spellsFromWords(rule.spellsFrom, course)]);
  if (rule.repeat) {
    const { perSpell = null, perTerm = null, gap = null, untilReply } = rule.repeat;
    const limits = repeatParts({ perSpell, perTerm, gap, untilReply });
    // Only “until they reply” may have been said.
    const isLimited = perSpell !== null || perTerm !== null || gap !== null || !untilReply;
    marked('repeat', [listWords(isLimited ? limits : limits.slice(1))]);
  }
  if (rule.steps) marked('steps', recipientParts(rule.steps, course));
  if (rule.weight && rule.weight !== 'normal') marked('weight', [weightWords(rule.weight)]);
  return said.flatMap((parts, i) => (i === 0 ? parts : [{ ...plainPart(', '), about: 'frame' as const }, ...parts]));
}

/** The words of what was said. */
export const saidSentence = (rule: SaidRule, course: Course): string => wordsOf(saidParts(rule, course));
