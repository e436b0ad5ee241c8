/** What measures over several items share: which of them count, their due instants, and their words (engine M2, H6). */
import { z } from 'zod';
import { counts, dueFor, type Course } from '../../course/course.ts';
import { spokenName } from '../../course/spokenName.ts';
import type { Instant } from '../../time/instant.ts';
import { listWords } from '../../time/words.ts';
import { firstDoing } from './done.ts';
import { severalItems, spokenItem, type MeasureCall, type Subject } from '../values/measure.ts';

export const severalParameters = {
  group: z.string().optional(),
  items: z.array(z.string()).min(1).max(1000).optional(),
};

/** "in Labs", "among Lab 1 and Lab 2", or nothing for the whole course. */
export function severalWords(call: MeasureCall, course: Course): string {
  if (call.items)
    return ` among ${listWords(call.items.map((id) => spokenItem(course, { measure: call.measure, item: id })))}`;
  return call.group === undefined ? '' : ` in ${spokenName(course, 'group', call.group)}`;
}

export interface CountingItem {
  /** Its place in the course. */
  readonly index: number;
  readonly title: string;
  readonly due: Instant | null;
  /** The first act that does it, or Infinity. */
  readonly act: Instant;
  /** The first grade above zero, or Infinity. */
  readonly credit: Instant;
}

/** The items of the call that count for the student, in the course's order. */
export const countingItems = (subject: Subject, call: MeasureCall): CountingItem[] =>
  countingAmong(subject, severalItems(subject.course, call));

/** Those of the given items that count for the student. */
export function countingAmong(subject: Subject, items: readonly number[]): CountingItem[] {
  return items.flatMap((index) => {
    const item = subject.course.items[index]!;
    if (!counts(item, subject.person)) return [];
    const due = dueFor(item, subject.person);
    const act = firstDoing(subject.log, item.kind, index);
    return [{ index, title: item.title, due, act, credit: subject.log.firstCredit(index) }];
  });
}

export const doneBy = (item: CountingItem, t: Instant): boolean => Math.min(item.act, item.credit) <= t;

/** Done by t at or before the due instant; a credit without an act by then is on time (engine H7). */
export const onTimeBy = (item: CountingItem, t: Instant): boolean =>
  item.act <= t ? item.due === null || item.act <= item.due : item.credit <= t;
