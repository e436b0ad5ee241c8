/** Visits of a student are unknown while only a list says when they were last seen (engine M5). */
import { LAST_SEEN, VISIT_EVIDENCE } from '../../activity/event.ts';
import type { Instant } from '../../time/instant.ts';
import type { Fact } from '../values/fact.ts';
import type { Subject } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { valueAt, type Numbers } from '../values/timeline.ts';

/** The timeline of a measure that counts or pairs visits, unknown wherever the visits are. */
export function whereVisitsAreKnown(subject: Subject, line: Numbers): Numbers {
  const [from, until] = subject.log.visitsNotKnown();
  const { steps } = line;
  const begin = steps[0];
  if (from === Infinity || begin === undefined || until <= begin) return line;
  const known = new NumbersBuilder();
  const isKnown = (at: Instant) => at < from || at >= until;
  const set = (at: Instant) => {
    const value = isKnown(at) ? valueAt(line, at) : null;
    known.set(at, typeof value === 'number' ? value : null);
  };
  const changes = steps.filter((_, i) => i % 2 === 0);
  const cuts = [from, until].filter((at) => at > begin && at !== Infinity);
  for (const at of [...changes, ...cuts].sort((a, b) => a - b)) set(at);
  return known.build();
}

/** The fact shown in place of visits at t: when a list last saw the student. Null if visits are known. */
export function lastSeenOnly({ log }: Subject, t: Instant): Fact | null {
  const [from, until] = log.visitsNotKnown();
  if (t < from || t >= until) return null;
  const visit = log.latest(VISIT_EVIDENCE, t);
  const at = visit ?? log.latest(LAST_SEEN, t);
  return at === null ? null : { kind: 'lastSeenOnly', what: visit === null ? 'signIn' : 'visit', at };
}
