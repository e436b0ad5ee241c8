import { kindMask } from '../../activity/event.ts';
import { dateWords, plural } from '../../time/words.ts';
import { windowSchema, windowWords } from '../../time/window.ts';
import { isForNone, comparisonWords, type Measure, type MeasureCall, type Subject } from '../values/measure.ts';
import { countingItems, severalParameters, severalWords } from './several.ts';
import { countInWindow, inWindowAt } from './windowed.ts';

const POST = kindMask('post');

const postsOf = (subject: Subject, call: MeasureCall): number[] =>
  countingItems(subject, call)
    .flatMap((i) => subject.log.instants(POST, i.index))
    .sort((a, b) => a - b);

/** Posts in forums, ever or in a window. */
export const posts: Measure = {
  name: 'posts',
  mergeField: 'student.posts',
  family: 'discussion',
  unit: 'count',
  title: 'Posts in discussions',
  parameters: { ...severalParameters, window: windowSchema.optional() },
  timeline: (subject, call) =>
    countInWindow(postsOf(subject, call), call.window, subject.story, subject.course.calendar),
  fact: (subject, call, t) => ({
    kind: 'last',
    what: 'post',
    at:
      postsOf(subject, call)
        .filter((x) => inWindowAt(x, call.window, t, subject.course.calendar))
        .at(-1) ?? null,
  }),
  label: (call, course) => `posts${severalWords(call, course)}${windowWords(call.window, dateWords)}`,
  clause(test, call, course) {
    const value = typeof test.raw === 'number' ? plural(test.raw, 'time') : test.value;
    const where = `${severalWords(call, course)}${windowWords(call.window, dateWords)}`;
    if (isForNone(test)) return { lead: 'have', marked: `not posted${where}` };
    return { lead: 'have', marked: `posted ${comparisonWords({ ...test, value })}${where}` };
  },
};
