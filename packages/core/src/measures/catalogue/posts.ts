import { kindMask } from '../../activity/event.ts';
import { dateWords } from '../../time/words.ts';
import { windowSchema, windowWords } from '../../time/window.ts';
import {
  isForNone,
  comparisonWords,
  type Measure,
  type MeasureCall,
  type Subject,
  counted,
} from '../values/measure.ts';
import { countingItems, severalParameters, severalWords } from './several.ts';
import { countInWindow, inWindowAt, spokenWindow } from './windowed.ts';

const POST = kindMask('post');

export const postsOf = (subject: Subject, call: MeasureCall): number[] =>
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
    const where = `${severalWords(call, course)}${spokenWindow(call.window, course)}`;
    if (isForNone(test)) return { lead: 'have', marked: `not posted${where}` };
    return { lead: 'have', marked: `posted ${comparisonWords({ ...test, value: counted(test, 'time') })}${where}` };
  },
  known: (call, course) => {
    const what = `posts${severalWords(call, course)}${spokenWindow(call.window, course)}`;
    return [`no known ${what}`, `a known number of ${what}`];
  },
  phrases: [
    'posted {n:times} {several} {window}',
    { say: 'not|never post|posted {several} {window}', is: '<', value: 1 },
    { say: 'no known posts {several} {window}', is: 'empty' },
    { say: 'known number of posts {several} {window}', is: 'filled' },
    '{n:post|posts} {several} {window}',
    { say: 'no posts {several} {window}', is: '<', value: 1 },
    { say: 'posted {several} {window}', is: '>=', value: 1 },
  ],
};
