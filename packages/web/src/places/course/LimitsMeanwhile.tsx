/** Somebody saved the limits while one had a draft of them. */
import type { CourseLimits } from '@zest-bell/core/rounds';
import { mergeLimits } from '@zest-bell/core/sets';
import type { CourseHere } from '../../lib/here.ts';
import type { FormOf } from '../../lib/useFormOf.ts';
import { Meanwhile, useLastChange } from '../../parts/common/Meanwhile.tsx';

const TITLES: Readonly<Record<string, string>> = {
  quietHours: 'Hours and days on which nothing is sent',
  budget: 'How many nudges a student gets',
  breaks: 'Breaks',
  marks: 'Named scores',
  askAbove: 'When a rule asks first',
  staleHours: 'Waiting for new data',
};

export function LimitsMeanwhile(props: {
  readonly here: CourseHere;
  readonly form: FormOf<CourseLimits>;
  readonly base: CourseLimits;
  readonly saved: CourseLimits;
}) {
  const { here, form, base, saved } = props;
  const who = useLastChange(here.id, 'course.limits');
  const { theirs, both, merged } = mergeLimits(base, form.value, saved);
  const titleOf = (part: string) => TITLES[part] ?? part;
  return (
    <Meanwhile
      who={who}
      what="limits"
      theirs={theirs.map(titleOf)}
      both={both.map(({ part }) => ({ title: titleOf(part), words: '' }))}
      onMerged={() => form.goOn(merged)}
      onDrop={form.drop}
    />
  );
}
