/** The parts of a rule in words, as two courses are shown side by side. */
import type { Condition } from '../conditions/condition.ts';
import { conditionSentence } from '../conditions/sentence.ts';
import type { Course } from '../course/course.ts';
import { stepWords } from '../rules/differences.ts';
import { rhythmWords, runWords } from '../rules/rhythmWords.ts';
import type { RepeatLimit, RuleWeight, Step } from '../rules/rule.ts';
import { repeatParts } from '../rules/sentence.ts';
import { listWords } from '../time/words.ts';
import type { Rhythm } from '../time/rhythm.ts';

const TITLES: Readonly<Record<string, string>> = {
  name: 'Name',
  note: 'Note',
  label: 'Label',
  when: 'Who',
  rhythm: 'When it runs',
  roles: 'For whom',
  repeat: 'How often',
  essential: 'Essential',
  weight: 'Priority',
  purpose: 'Purpose',
  subject: 'Subject',
  text: 'Text',
  files: 'Attachments',
  letter: 'Letter',
};

/** “Step 2”, “Text 3”, “Text for anyone”. */
export function partTitle(part: string): string {
  const [, list, name] = /^(steps|variants|copies)\[(.*)\]$/.exec(part) ?? [];
  if (list === 'steps') return `Step ${Number(name) + 1}`;
  if (list === 'variants') return `Text ${Number(name) + 2}`;
  if (list === 'copies') return `Text for ${name!.replace(/^(?:contact|address):/, '')}`;
  return TITLES[part] ?? part;
}

/** What a part of a rule says; empty if absent. `wording` gives a wording's name. */
export function rulePartWords(part: string, value: unknown, course: Course, wording: (id: string) => string): string {
  if (value === undefined || value === null) return '';
  switch (part) {
    case 'when':
      return conditionSentence(value as Condition, course);
    case 'rhythm': {
      const rhythm = value as Rhythm;
      const breaks = rhythm.skipBreaks ? 'not on breaks' : 'also on breaks';
      return `${rhythmWords(rhythm)}, ${runWords(rhythm, course)}, ${breaks}`;
    }
    case 'roles':
      return listWords((value as readonly string[]).map((r) => `${r}s`));
    case 'repeat':
      return listWords(repeatParts(value as RepeatLimit));
    case 'weight':
      return { light: 'low', normal: 'normal', strong: 'high' }[value as RuleWeight];
    case 'essential':
      return value === true ? 'yes' : 'no';
  }
  const step = /^steps\[(\d+)\]$/.exec(part);
  return step ? stepWords(value as Step, Number(step[1]), wording) : typeof value === 'string' ? value : '';
}
