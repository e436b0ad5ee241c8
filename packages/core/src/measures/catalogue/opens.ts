import { z } from 'zod';
import { kindMask } from '../../activity/event.ts';
import { counts } from '../../course/course.ts';
import { dateWords } from '../../time/words.ts';
import { windowSchema, windowWords } from '../../time/window.ts';
import { NOT_APPLICABLE } from '../values/timeline.ts';
import {
  isForNone,
  comparisonWords,
  itemIndexOf,
  itemOf,
  type Measure,
  counted,
  spokenItem,
} from '../values/measure.ts';
import { countInWindow, spokenWindow } from './windowed.ts';

const OPEN = kindMask('open');

/** How often the student opened an item, in a window or ever. */
export const opens: Measure = {
  name: 'opens',
  mergeField: 'item.opens',
  family: 'content',
  unit: 'count',
  title: 'Times an item was opened',
  parameters: { item: z.string(), window: windowSchema.optional() },
  timeline(subject, call) {
    if (!counts(itemOf(subject.course, call), subject.person)) return NOT_APPLICABLE;
    const opened = subject.log.instants(OPEN, itemIndexOf(subject.course, call));
    return countInWindow(opened, call.window, subject.story, subject.course.calendar);
  },
  fact(subject, call, t) {
    if (!counts(itemOf(subject.course, call), subject.person)) return { kind: 'doesNotCount' };
    const at = subject.log.instants(OPEN, itemIndexOf(subject.course, call)).filter((x) => x <= t);
    return { kind: 'last', what: 'open', at: at.at(-1) ?? null };
  },
  label: (call, course) => `times ${itemOf(course, call).title} was opened${windowWords(call.window, dateWords)}`,
  clause(test, call, course) {
    const title = spokenItem(course, call);
    const when = spokenWindow(call.window, course);
    if (isForNone(test)) {
      return { lead: 'have', marked: call.window ? `not opened ${title}${when}` : `never opened ${title}` };
    }
    if (test.is === '>=' && test.raw === 1) return { lead: 'have', marked: `opened ${title}${when}` };
    return { lead: 'opened', marked: `${title} ${comparisonWords({ ...test, value: counted(test, 'time') })}${when}` };
  },
  known: (call, course) => {
    const what = `opens of ${spokenItem(course, call)}${spokenWindow(call.window, course)}`;
    return [`no known ${what}`, `a known number of ${what}`];
  },
  phrases: [
    { say: 'not|never open|opened|read|viewed {item} {window}', is: '<', value: 1 },
    { say: 'opened|read|viewed {item} {window}', is: '>=', value: 1 },
    'opened|read|viewed {item} {n:times} {window}',
    { say: 'no known opens of {item} {window}', is: 'empty' },
    { say: 'known number of opens of {item} {window}', is: 'filled' },
    { say: '{item} not|never opened|read|viewed {window}', is: '<', value: 1 },
  ],
};
