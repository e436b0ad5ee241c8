import { z } from 'zod';
import { kindMask } from '../../activity/event.ts';
import { counts } from '../../course/course.ts';
import { comparisonWords, severalItems, type Measure, type MeasureCall, type Subject } from '../values/measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { percent } from '../values/value.ts';

const ACTS = ['open', 'practice', 'submit', 'post'] as const;
type SharedAct = (typeof ACTS)[number];
/** How the fact calls each. */
const WHAT = { open: 'opened', practice: 'practiced', submit: 'submitted', post: 'posted' } as const;
/** How a sentence does. */
const DONE = { open: 'opened', practice: 'practiced', submit: 'submitted', post: 'posted in' } as const;

interface Touch {
  readonly title: string;
  readonly released: number;
  readonly first: number;
}

function touches(subject: Subject, call: MeasureCall): Touch[] {
  const mask = kindMask(call.of as SharedAct);
  return severalItems(subject.course, call).flatMap((index) => {
    const item = subject.course.items[index]!;
    if (!counts(item, subject.person)) return [];
    return [{ title: item.title, released: item.opensAt ?? -Infinity, first: subject.log.first(mask, index) }];
  });
}

const shareAt = (all: readonly Touch[], t: number): number | null => {
  const released = all.filter((x) => x.released <= t);
  return released.length === 0 ? null : percent(released.filter((x) => x.first <= t).length, released.length);
};

/** Of the items that count and are released, the share with at least one such act. */
export const share: Measure = {
  name: 'share',
  mergeField: 'student.share',
  family: 'content',
  unit: 'percent',
  title: 'Share of items opened, practiced, submitted or posted in',
  parameters: { of: z.enum(ACTS), ...severalParameters },
  timeline(subject, call) {
    const all = touches(subject, call);
    const steps = new NumbersBuilder();
    const moments = new Set([subject.story]);
    for (const x of all) for (const t of [x.released, x.first]) if (t > subject.story && t < Infinity) moments.add(t);
    for (const t of [...moments].sort((a, b) => a - b)) steps.set(t, shareAt(all, t));
    return steps.build();
  },
  fact: (subject, call, t) => ({
    kind: 'items',
    what: WHAT[call.of as SharedAct],
    items: touches(subject, call)
      .filter((x) => x.released <= t && x.first <= t)
      .map((x) => ({ title: x.title, dueAt: null })),
  }),
  label: (call, course) => `share ${DONE[call.of as 'open']}${severalWords(call, course)}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `${DONE[call.of as 'open']} ${comparisonWords(test)} of ${itemsWords(call, course)}`,
  }),
  known: (call, course) => {
    const what = `share ${DONE[call.of as 'open']} of ${itemsWords(call, course)}`;
    return [`no known ${what}`, `a known ${what}`];
  },
  phrases: ACTS.flatMap((of) => {
    const verb = of === 'submit' ? 'submitted|turned|handed [in]' : DONE[of];
    return ['items {several}', '{items}', '{group}'].flatMap((what) => [
      { say: `${verb} {n:%} of ${what}`, of },
      { say: `no known share ${DONE[of]} of ${what}`, of, is: 'empty' } as const,
      { say: `known share ${DONE[of]} of ${what}`, of, is: 'filled' } as const,
    ]);
  }),
};

/** “the items in Practice”, or those that are named. */
const itemsWords = (call: MeasureCall, course: Subject['course']): string =>
  call.items ? severalWords(call, course).replace(' among ', '') : `the items${severalWords(call, course)}`;
