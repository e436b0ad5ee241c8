/** A rule's sentence with its changeable parts marked, to be read rather than changed. */
import type { Course } from '@zest-bell/core/course';
import { ruleParts, type Rule } from '@zest-bell/core/rules';

export const RuleSentence = ({ rule, course }: { readonly rule: Rule; readonly course: Course }) =>
  ruleParts(rule, course).map((part, i) =>
    part.marked ? (
      <span key={i} className="marked font-semibold!">
        {part.words}
      </span>
    ) : (
      part.words
    ),
  );
