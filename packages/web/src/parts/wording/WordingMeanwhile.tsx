/** Somebody saved the wording while one had a draft of it. */
import type { WordingAnswer } from '@zest-bell/core/exchange';
import { mergeWordings, partTitle } from '@zest-bell/core/sets';
import type { Variant, Wording } from '@zest-bell/core/wording';
import type { CourseHere } from '../../lib/here.ts';
import type { FormOf } from '../../lib/useFormOf.ts';
import { Meanwhile, useLastChange } from '../common/Meanwhile.tsx';
import { bodyOf } from '../messages/usePreview.ts';
import { spoken } from './spoken.ts';

export function WordingMeanwhile(props: {
  readonly here: CourseHere;
  readonly wording: WordingAnswer;
  readonly form: FormOf<Wording>;
  readonly base: Wording;
}) {
  const { here, wording, form, base } = props;
  const who = useLastChange(here.id, 'wording.change', wording.id);
  const { theirs, both, merged } = mergeWordings(base, form.value, bodyOf(wording));
  return (
    <Meanwhile
      who={who}
      what="wording"
      theirs={theirs.map(partTitle)}
      both={both.map(({ part, there }) => ({ title: partTitle(part), words: wordsOf(there) }))}
      onMerged={() => form.goOn(merged)}
      onDrop={form.drop}
    />
  );
}

/** A text as it reads; nothing for what is no text. */
function wordsOf(value: unknown): string {
  if (typeof value === 'string') return spoken(value);
  const text = (value as Partial<Variant> | null)?.text;
  return text === undefined ? '' : spoken(text);
}
