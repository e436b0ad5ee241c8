/** Two versions of a rule side by side, in the words of its sentence. */
import type { Course } from '../course/course.ts';
import { conditionSentence } from '../conditions/sentence.ts';
import { durationWords, instantWords, listWords } from '../time/words.ts';
import { rhythmWords, runWords } from './rhythmWords.ts';
import { audienceWords, recipientWords, repeatParts } from './sentence.ts';
import type { Rule, Step } from './rule.ts';

export interface RuleDifference {
  /** "When it looks" */
  readonly part: string;
  readonly before: string;
  readonly after: string;
}

const NONE = '—';

/** Only what differs, in the order of the sentence. `wordingName` gives a wording's name by its id. */
export function differences(
  before: Rule,
  after: Rule,
  course: Course,
  wordingName: (id: string) => string = (id) => id,
): RuleDifference[] {
  const out: RuleDifference[] = [];
  const part = (name: string, words: (rule: Rule) => string) => {
    const [b, a] = [words(before), words(after)];
    if (b !== a) out.push({ part: name, before: b || NONE, after: a || NONE });
  };
  part('Name', (r) => r.name);
  part('Note', (r) => r.note);
  part('Label', (r) => r.label);
  part('When it runs', (r) => rhythmWords(r.rhythm));
  part('From when until when', (r) => runWords(r.rhythm, course));
  part('On breaks', (r) => (r.rhythm.skipBreaks ? 'does not run' : 'runs'));
  part('For whom', (r) => audienceWords(r.audience, course));
  part('Who', (r) => conditionSentence(r.when, course));
  part('How often', (r) => listWords(repeatParts(r.repeat)));
  part('Priority', (r) => ({ light: 'low', normal: 'normal', strong: 'high' })[r.weight]);
  part('Essential', (r) => (r.essential ? 'yes' : 'no'));
  part('Only matches from', (r) => (r.spellsFrom === null ? '' : instantWords(r.spellsFrom, course.timeZone)));
  part('Status', (r) => (r.status === 'draft' ? 'a draft' : r.status));
  for (let i = 0; i < Math.max(before.steps.length, after.steps.length); i++) {
    part(`Step ${i + 1}`, (r) => stepWords(r.steps[i], i, wordingName));
  }
  return out;
}

/** “after 3 days, sends “Warm check-in” to the student” */
export function stepWords(step: Step | undefined, place: number, wordingName: (id: string) => string): string {
  if (!step) return '';
  const wait = durationWords(step.after);
  const when = wait === 'at once' ? (place === 0 ? 'at once' : 'with the step before') : `after ${wait}`;
  const how = step.deliver === 'send' ? 'sends' : 'holds';
  const together = step.together ? ', one list per check' : '';
  return `${when}, ${how} “${wordingName(step.wording)}” to ${recipientWords(step.to)}${together}`;
}
