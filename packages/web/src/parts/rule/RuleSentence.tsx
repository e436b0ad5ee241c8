/** A rule's sentence with its changeable parts marked, to be read rather than changed. */
import type { Course } from '@zest-bell/core/course';
import { ruleParts, type Rule, type RulePart } from '@zest-bell/core/rules';

export const RuleSentence = (props: {
  readonly rule: Rule;
  readonly course: Course;
  /** In a list of rules only what a rule looks for is marked: a page of marks marks nothing. */
  readonly marks: 'all' | 'condition';
}) =>
  ruleParts(props.rule, props.course).map((part, i) =>
    part.marked && (props.marks === 'all' || part.about === 'when') ? (
      <span key={i} className="marked font-semibold!">
        {part.words}
      </span>
    ) : (
      part.words
    ),
  );

/** A rule on one line, whom it looks for first: that is what tells rules apart, and stays when the line is cut. */
export const RuleInBrief = ({ rule, course }: { readonly rule: Rule; readonly course: Course }) => {
  const parts = ruleParts(rule, course);
  const of = (...about: RulePart['about'][]) =>
    parts
      .filter((part) => about.includes(part.about))
      .map((part, i) =>
        part.about === 'when' && part.marked ? (
          <span key={i} className="marked font-semibold! text-ink">
            {part.words}
          </span>
        ) : (
          part.words
        ),
      );
  return (
    <>
      {of('audience', 'who', 'when')} · {of('rhythm')}
    </>
  );
};
