/** Somebody saved the course's sender while one had a draft of it. */
import type { SenderSettings } from '@zest-bell/core/course';
import { mergeSenders } from '@zest-bell/core/sets';
import type { CourseHere } from '../../lib/here.ts';
import type { FormOf } from '../../lib/useFormOf.ts';
import { Meanwhile, useLastChange } from '../common/Meanwhile.tsx';
import { SENDER_FIELDS } from './SenderFields.tsx';

export function SenderMeanwhile(props: {
  readonly here: CourseHere;
  readonly form: FormOf<SenderSettings>;
  readonly base: SenderSettings;
}) {
  const { here, form, base } = props;
  const who = useLastChange(here.id, 'course.sender');
  const { theirs, both, merged } = mergeSenders(base, form.value, here.answer.sender);
  const titleOf = (part: string) =>
    SENDER_FIELDS.find((f) => f.key === part)?.label ??
    (part === 'domains' ? 'Addresses inside your institution' : 'Where replies go');
  return (
    <Meanwhile
      who={who}
      what="sender"
      theirs={theirs.map(titleOf)}
      both={both.map(({ part, there }) => ({ title: titleOf(part), words: typeof there === 'string' ? there : '' }))}
      onMerged={() => form.goOn(merged)}
      onDrop={form.drop}
    />
  );
}
