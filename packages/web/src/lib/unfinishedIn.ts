import { textsOf, unfinishedParts, type Wording } from '@zest-bell/core/wording';

/** What looks unfinished in any text of a wording, those for third parties included. */
export const unfinishedIn = (wording: Wording): readonly string[] =>
  [...textsOf(wording), ...(wording.copies ?? [])].flatMap(({ subject, text }) => [
    ...unfinishedParts(subject ?? ''),
    ...unfinishedParts(text),
  ]);
