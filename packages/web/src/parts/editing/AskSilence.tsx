/** Before limits are saved under which rules write to nobody any more: why, and a yes. */
import type { CourseFile, CourseSettings } from '@zest-bell/core/course';
import { silencesIn } from '@zest-bell/core/rounds';
import { dateOf } from '@zest-bell/core/time';
import type { CourseHere } from '../../lib/here.ts';
import { Check } from '../../ui/fields.tsx';

/** What silences the rules of a course: as saved, or with the values typed. */
export const silencesOf = (
  { course, now }: CourseHere,
  typed: Partial<Pick<CourseFile, 'breaks'> & { readonly settings: CourseSettings }> = {},
): string[] => silencesIn({ ...course, ...typed }, dateOf(course.calendar.dayNumber(now)));

/** What the typed limits silence that the saved ones do not. */
export function newSilences(here: CourseHere, typed: Parameters<typeof silencesOf>[1]): string[] {
  const known = silencesOf(here);
  return silencesOf(here, typed).filter((words) => !known.includes(words));
}

export function AskSilence(props: {
  readonly silences: readonly string[];
  readonly yes: boolean;
  readonly onYes: (yes: boolean) => void;
}) {
  if (props.silences.length === 0) return null;
  return (
    <div role="alert" className="rounded-xl bg-tangerine-soft px-4 py-3 text-[14.5px]">
      {props.silences.map((words) => (
        <p key={words}>▲ {words}</p>
      ))}
      <Check label={<strong>Silence the rules</strong>} checked={props.yes} onChange={props.onYes} />
    </div>
  );
}
