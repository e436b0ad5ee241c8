/** Before much of a class is written to: the number, and a yes. */
import { plural, numberWords } from '@zest-bell/core/time';
import { isActiveStudent } from '@zest-bell/core/course';
import type { CourseHere } from '../../lib/here.ts';
import { Check } from '../../ui/fields.tsx';

/** Whether `heard` is more of the class than its course lets pass without a question. */
export const reachesMany = (here: CourseHere, heard: number): boolean =>
  heard > here.answer.guards.askAbove * here.course.people.filter(isActiveStudent).length;

export function AskMany(props: {
  readonly here: CourseHere;
  readonly heard: number;
  readonly yes: boolean;
  readonly onYes: (yes: boolean) => void;
}) {
  const { here, heard, yes, onYes } = props;
  const klass = here.course.people.filter(isActiveStudent).length;
  const share = Math.round((heard / klass) * 100);
  return (
    <div role="alert" className="border-t border-line bg-tangerine-soft px-6 py-3">
      <p className="text-[14.5px]">
        <span aria-hidden>▲ </span>
        That is <strong>{`${numberWords(heard)} of ${plural(klass, 'student')}`}</strong>, {share}% of the class. Zest
        Bell asks you above {Math.round(here.answer.guards.askAbove * 100)}%. The list shows their names.
      </p>
      <Check label={<strong>Allow nudges about {plural(heard, 'student')}</strong>} checked={yes} onChange={onYes} />
    </div>
  );
}
