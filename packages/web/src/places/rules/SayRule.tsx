/** A new rule as one sentence. What is not said stays as every new rule begins. */
import { useMemo } from 'react';
import { leavesOf } from '@zest-bell/core/conditions';
import type { Course } from '@zest-bell/core/course';
import { ruleSentence, type Rule } from '@zest-bell/core/rules';
import { say, withSaid, type SaidRule } from '@zest-bell/core/saying';
import { STARTERS, starterFor } from '@zest-bell/core/starters';
import type { Instant } from '@zest-bell/core/time';
import type { CourseHere } from '../../lib/here.ts';
import { useCriteria } from '../../lib/useCriteria.ts';
import { newRule } from '../../lib/ruleDefaults.ts';
import { nameFrom } from '../../parts/editing/ruleFrom.ts';
import { RuleSentence } from '../../parts/rule/RuleSentence.tsx';
import { examplesFor } from './examples.ts';
import { SayingField } from '../../parts/saying/SayingField.tsx';
import { useMatchWords } from '../../parts/saying/useMatching.ts';

export function SayRule(props: {
  readonly here: CourseHere;
  readonly text: string;
  readonly busy: boolean;
  readonly onText: (text: string) => void;
  /** Makes the draft; its text comes with the starter of this id. */
  readonly onBegin: (rule: Rule, starter: string) => void;
}) {
  const { here, text } = props;
  const { course, now } = here;
  const criteria = useCriteria(here);
  const options = useMemo(
    () => ({ start: newRule(course, now, '').rhythm.start, needsCondition: true, criteria }),
    [course, now, criteria],
  );
  const examples = useMemo(() => examplesFor(course, now), [course, now]);
  const rule = useMemo(() => say(text, course, options).rule, [text, course, options]);
  const draft = useMemo(() => rule && draftOf(course, now, rule), [rule, course, now]);
  const count = useMatchWords(here, draft && draft.rule);
  return (
    <SayingField
      course={course}
      label="Say whom, when and how often"
      placeholder="away 5 days, weekdays at 9:30, once each time"
      options={options}
      examples={examples}
      text={text}
      onText={props.onText}
      understood={() => (
        <p data-testid="understood">
          {draft && <RuleSentence rule={draft.rule} course={course} marks="all" />}{' '}
          <strong className="whitespace-nowrap">{count}</strong>
        </p>
      )}
      spoken={() => (draft ? `${ruleSentence(draft.rule, course)} ${count}` : '')}
      takes="Create draft"
      busy={props.busy}
      onTake={() => draft && props.onBegin(draft.rule, draft.starter)}
    />
  );
}

/** A draft that looks for what was said, with words that fit what it is about. */
function draftOf(course: Course, now: Instant, said: SaidRule): { readonly rule: Rule; readonly starter: string } {
  const merged = withSaid(newRule(course, now, ''), said);
  const starter = STARTERS.find((s) => s.id === starterFor(leavesOf(merged.when)[0]!))!;
  const steps = merged.steps.map((step) => ({ ...step, wording: starter.wordings[0]!.id }));
  return { rule: { ...merged, steps, name: nameFrom(merged.when, course) }, starter: starter.id };
}
