/** A rule's sentence with its changeable parts marked, to be read rather than changed. */
import {
  audienceWords,
  groupOf,
  isLeaf,
  JOINER,
  leafClause,
  repeatParts,
  rhythmWords,
  runWords,
  spellsFromWords,
  type Condition,
  type Course,
  type Rule,
} from '@zest-bell/core';

export function RuleSentence({ rule, course }: { readonly rule: Rule; readonly course: Course }) {
  return (
    <>
      Look <Mark>{rhythmWords(rule.rhythm)}</Mark>, <Mark>{runWords(rule.rhythm, course)}</Mark>, for{' '}
      <Mark>{audienceWords(rule.audience, course)}</Mark> who <Clauses condition={rule.when} course={course} top />
      {rule.spellsFrom !== null && `, ${spellsFromWords(rule, course)}`}, and nudge each of them{' '}
      {repeatParts(rule.repeat).map((part, i) => (
        <span key={part}>
          {i > 0 && ', '}
          <Mark>{part}</Mark>
        </span>
      ))}
      {rule.steps.length > 1 && ` in ${rule.steps.length} steps`}.
    </>
  );
}

const Mark = ({ children }: { readonly children: string }) => <span className="marked font-semibold!">{children}</span>;

function Clauses({
  condition,
  course,
  top = false,
}: {
  readonly condition: Condition;
  readonly course: Course;
  readonly top?: boolean;
}) {
  if (isLeaf(condition)) {
    const { lead, marked } = leafClause(condition, course);
    return (
      <>
        {lead} <Mark>{marked}</Mark>
      </>
    );
  }
  const { kind, children } = groupOf(condition);
  return (
    <>
      {kind === 'none' ? 'do not match (' : top ? '' : '('}
      {children.map((child, i) => (
        <span key={i}>
          {i > 0 && ` ${JOINER[kind]} `}
          <Clauses condition={child} course={course} />
        </span>
      ))}
      {kind === 'none' || !top ? ')' : ''}
    </>
  );
}
