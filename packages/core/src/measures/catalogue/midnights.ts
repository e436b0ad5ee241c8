/** What is compared with the class is compared as of the latest local midnight (engine M3). */
import { DAY, type Instant } from '../../time/instant.ts';
import { callKey } from '../values/callKey.ts';
import type { ClassWide, MeasureCall, Subject } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { valueAt, type Numbers, type Timeline } from '../values/timeline.ts';

/** Every local midnight from the latest one at or before `from` until the horizon. */
export function midnights(subject: Subject, from: Instant): Instant[] {
  const { calendar } = subject.course;
  const out: Instant[] = [];
  for (let day = calendar.dayNumber(from); ; day++) {
    const at = calendar.zone.toInstant(day * DAY);
    if (out.length > 0 && at >= subject.horizon) return out;
    out.push(at);
  }
}

/** The mean of a measure over the class as of a midnight; null when nobody has a number. */
export type MeanAt = (midnight: Instant) => number | null;

/** Means are worked out once for the whole class, each when it is first asked for. */
export function classMean(
  subject: Subject,
  call: MeasureCall,
  classWide: ClassWide,
  lineOf: (s: Subject) => Timeline,
): MeanAt {
  const memo = subject.classmates.memo(classWide);
  const key = callKey(call);
  let mean = memo.get(key) as MeanAt | undefined;
  if (!mean) {
    const lines = subject.classmates.subjects().map(lineOf);
    const means = new Map<Instant, number | null>();
    mean = (midnight) => {
      let known = means.get(midnight);
      if (known === undefined) means.set(midnight, (known = meanAt(lines, midnight)));
      return known;
    };
    memo.set(key, mean);
  }
  return mean;
}

function meanAt(lines: readonly Timeline[], t: Instant): number | null {
  let sum = 0;
  let n = 0;
  for (const line of lines) {
    const value = valueAt(line, t);
    if (typeof value !== 'number') continue;
    sum += value;
    n++;
  }
  return n === 0 ? null : sum / n;
}

/** Steps that hold from each midnight to the next, the first one from the story's start. */
export function midnightSteps(subject: Subject, value: (midnight: Instant) => number | null): Numbers {
  const steps = new NumbersBuilder();
  for (const at of midnights(subject, subject.story)) steps.set(Math.max(at, subject.story), value(at));
  return steps.build();
}
