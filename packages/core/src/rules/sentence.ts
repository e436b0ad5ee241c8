/** A rule as the sentence an instructor reads; the composer opens its parts where they stand. */
import type { Course } from '../course/course.ts';
import { conditionParts, markedPart, plainPart, wordsOf, type SentencePart } from '../conditions/sentence.ts';
import { quoted, spokenName, tokensOf, type Named } from '../course/spokenName.ts';
import { dateOf } from '../time/calendar.ts';
import type { Instant } from '../time/instant.ts';
import { dateWordsIn } from '../time/typedDate.ts';
import { exactDurationWords, listWords, plural, timeWords, weekdayDateWords } from '../time/words.ts';
import { rhythmWords, runWords } from './rhythmWords.ts';
import {
  isAlert,
  tellsOthersOnly,
  type Audience,
  type RecipientSpec,
  type RepeatLimit,
  type Rule,
  type RuleWeight,
} from './rule.ts';

/** "students", "students in section 01, except Ada Lind" */
export function audienceWords(audience: Audience, course: Course): string {
  const roles = listWords(audience.roles.map((r) => `${r}s`));
  const sections =
    audience.sections.length === 0
      ? ''
      : ` in section${audience.sections.length === 1 ? '' : 's'} ${listWords(audience.sections.map((s) => spokenName(course, 'section', s)))}`;
  const names = audience.except.map((id) => {
    const p = course.people[course.personIndex.get(id) ?? -1];
    return spokenName(course, 'person', p ? `${p.firstName} ${p.lastName}` : id);
  });
  return `${roles}${sections}${names.length === 0 ? '' : `, except ${listWords(names)}`}`;
}

/** The repeat limit part by part: "once each time", "at most 3 times this term". */
export function repeatParts(repeat: RepeatLimit): string[] {
  const parts: string[] = [];
  if (repeat.perSpell !== null)
    parts.push(repeat.perSpell === 1 ? 'once each time' : `${repeat.perSpell} times each time`);
  if (repeat.perTerm !== null)
    parts.push(repeat.perTerm === 1 ? 'once this term' : `at most ${repeat.perTerm} times this term`);
  if (repeat.gap !== null && (repeat.gap.days > 0 || repeat.gap.hours > 0))
    parts.push(`at most every ${exactDurationWords(repeat.gap)}`);
  if (parts.length === 0) parts.push('at every check');
  if (repeat.untilReply) parts.push('until they reply');
  return parts;
}

/** "the student", "the student and their advisor"; with a course, so that it reads back as the same recipients. */
export function recipientWords(to: readonly RecipientSpec[], course?: Named): string {
  return listWords(
    to.map((r) => {
      if (r === 'student') return 'the student';
      if (r === 'instructor') return 'the instructor';
      const name = r.slice(r.indexOf(':') + 1);
      if (r.startsWith('contact:')) return `their ${course ? spokenName(course, 'contact', name) : name}`;
      return !course || tokensOf(name).length === 1 ? name : quoted(name);
    }),
  );
}

/** "only where that begins after Mon Oct 26, 8:02 AM" for a rule that was turned on for new spells alone; else empty. */
export const spellsFromWords = (from: Instant | null, course: Course): string =>
  from === null ? '' : `only where that begins after ${momentWords(from, course)}`;

/** "Mon Oct 26, 8:02 AM", with the year where the course does not have that day, or has it twice. */
function momentWords(at: Instant, course: Course): string {
  const date = dateOf(course.calendar.dayNumber(at));
  const weekday = weekdayDateWords(date).slice(0, 3);
  return `${weekday} ${dateWordsIn(date, course)}, ${timeWords(at, course.timeZone)}`;
}

/** "as a high-priority message"; empty for a normal one. */
export const weightWords = (weight: RuleWeight): string =>
  ({ light: 'as a low-priority reminder', normal: '', strong: 'as a high-priority message' })[weight];

/** “nudge each of them”; of a rule that writes to no student, whom it tells. */
const nudgeWords = (rule: Rule, course: Course): string =>
  tellsOthersOnly(rule)
    ? `tell ${recipientWords([...new Set(rule.steps.flatMap((s) => s.to))], course)} about each of them`
    : 'nudge each of them';

/** ", and copy the instructor": who else gets the message of a rule with one step. */
function copyWords(rule: Rule, course: Course): string {
  const [step, next] = rule.steps;
  if (!step || next || isAlert(step)) return '';
  const others = step.to.filter((r) => r !== 'student');
  return others.length === 0 ? '' : `, and copy ${recipientWords(others, course)}`;
}

/** The whole rule in one sentence. */
export const ruleSentence = (rule: Rule, course: Course): string => wordsOf(ruleParts(rule, course));

export interface RulePart extends SentencePart {
  /** `frame` is what is between the others. */
  readonly about: 'frame' | 'rhythm' | 'run' | 'audience' | 'who' | 'when' | 'from' | 'repeat' | 'weight' | 'steps';
}

/** The same, piece by piece: a list shows them, and the composer opens the marked ones where they stand. */
export function ruleParts(rule: Rule, course: Course): readonly RulePart[] {
  const from = spellsFromWords(rule.spellsFrom, course);
  const about = (subject: RulePart['about'], ...parts: readonly SentencePart[]): RulePart[] =>
    parts.map((part) => ({ ...part, about: subject }));
  return [
    ...about('frame', plainPart('Look ')),
    ...about('rhythm', markedPart(rhythmWords(rule.rhythm))),
    ...about('frame', plainPart(', ')),
    ...about('run', markedPart(runWords(rule.rhythm, course))),
    ...about('frame', plainPart(', for ')),
    ...about('audience', markedPart(audienceWords(rule.audience, course))),
    ...about('who', plainPart(' who ')),
    ...about('when', ...conditionParts(rule.when, course)),
    ...(from ? [...about('frame', plainPart(', ')), ...about('from', plainPart(from))] : []),
    ...about('frame', plainPart(`, and ${nudgeWords(rule, course)} `)),
    ...listOf(repeatParts(rule.repeat)).map((part): RulePart => ({ ...part, about: part.marked ? 'repeat' : 'frame' })),
    ...(rule.weight === 'normal'
      ? []
      : [...about('frame', plainPart(', ')), ...about('weight', markedPart(weightWords(rule.weight)))]),
    ...about('steps', plainPart(copyWords(rule, course))),
    ...about('steps', plainPart(rule.steps.length === 1 ? '.' : ` in ${plural(rule.steps.length, 'step')}.`)),
  ];
}

/** A list of marked words, joined as `listWords` joins them. */
function listOf(all: readonly string[]): SentencePart[] {
  const joined = listWords(all);
  let at = 0;
  return all.flatMap((words) => {
    const from = joined.indexOf(words, at);
    const between = joined.slice(at, from);
    at = from + words.length;
    return between === '' ? [markedPart(words)] : [plainPart(between), markedPart(words)];
  });
}
