/** What a typed text says as a condition, at the head of a list that is searched by typing. */
import { useMemo } from 'react';
import { Command } from 'cmdk';
import { conditionSentence, leavesOf, type Condition } from '@zest-bell/core/conditions';
import type { Course } from '@zest-bell/core/course';
import { say, type SayingOptions, type SayingProblem } from '@zest-bell/core/saying';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { useCriteria } from '../../lib/useCriteria.ts';
import { MatchCount } from './MatchCount.tsx';

const OPTIONS = { only: ['when'], needsCondition: true } satisfies SayingOptions;
/** Below this many characters a text is a search for one word. */
const SHORTEST = 4;

interface SaidItemsProps {
  readonly here: CourseHere;
  readonly typed: string;
  readonly heading: string;
  readonly groupClass: string;
  readonly entryClass: string;
  /** What choosing one does, as its words. */
  readonly words: (sentence: string) => string;
  /** Whether it says how many students match. */
  readonly counts?: boolean;
  readonly onUse: (condition: Condition, text: string) => void;
  /** Puts other words in the place of what was typed. */
  readonly onRetype: (text: string) => void;
}

/** On a page of a course. */
export const SaidItemsHere = (props: Omit<SaidItemsProps, 'here'>) => <SaidItems {...props} here={useHere()} />;

export const SaidItems = (props: SaidItemsProps) =>
  props.typed.trim().length < SHORTEST ? null : <ItemsOf {...props} />;

function ItemsOf(props: SaidItemsProps) {
  const { here, typed } = props;
  const { course } = here;
  const criteria = useCriteria(here);
  const { conditions, fixes } = useMemo(() => saidIn(typed, course, criteria), [typed, course, criteria]);
  if (conditions.length + fixes.length === 0) return null;
  return (
    <Command.Group heading={props.heading} className={props.groupClass}>
      {conditions.map((when, i) => {
        const sentence = conditionSentence(when, course);
        return (
          <Command.Item
            key={sentence}
            value={`${typed} ${props.heading} ${i} ${sentence}`}
            keywords={[typed]}
            className={props.entryClass}
            onSelect={() => props.onUse(when, typed)}
          >
            {props.words(sentence)} {props.counts === true && <MatchCount here={here} when={when} />}
          </Command.Item>
        );
      })}
      {fixes.map((fix) => (
        <Command.Item
          key={fix}
          value={`${typed} ${props.heading} ${fix}`}
          keywords={[typed]}
          className={props.entryClass}
          onSelect={() => props.onRetype(fix)}
        >
          Did you mean “{fix}”?
        </Command.Item>
      ))}
    </Command.Group>
  );
}

/** The conditions that a text can mean, or texts that are near it and mean one. */
function saidIn(
  typed: string,
  course: Course,
  criteria: readonly string[],
): { readonly conditions: readonly Condition[]; readonly fixes: readonly string[] } {
  const options = { ...OPTIONS, criteria };
  const { readings, problems } = say(typed, course, options);
  // The name of a measure alone, such as “course grade”, is a search for it rather than a condition that there is one.
  const isMeant = (when: Condition) => leavesOf(when).every((leaf) => leaf.is !== 'filled');
  const conditions = readings.flatMap(({ when }) => (when && isMeant(when) ? [when] : [])).slice(0, 5);
  const unknown = problems.find((p) => p.code === 'unknownWord');
  const near = unknown ? fixesOf(unknown, typed) : [];
  return { conditions, fixes: near.filter((fix) => say(fix, course, options).readings.length > 0) };
}

/** The text with words that may be meant in place of those that are not understood. */
const fixesOf = ({ from, to, near }: SayingProblem, text: string): readonly string[] =>
  near.map((n) => text.slice(0, from) + n + text.slice(to));
