import { VISITS } from '../../activity/event.ts';
import { MINUTE, type Instant } from '../../time/instant.ts';
import { dateWords } from '../../time/words.ts';
import { windowSchema, windowWords } from '../../time/window.ts';
import { isForNone, comparisonWords, type Measure, type Subject, counted } from '../values/measure.ts';
import { lastSeenOnly, whereVisitsAreKnown } from './visitsKnown.ts';
import { countInWindow, spokenWindow } from './windowed.ts';

/** Where sittings begin: a visit that no visit precedes by less than 30 minutes (engine H8). */
export function sittings(subject: Subject): Instant[] {
  const out: Instant[] = [];
  let before = -Infinity;
  for (const at of subject.log.instants(VISITS)) {
    // Visits at the very same instant are one.
    if (at === before) continue;
    if (at - before >= 30 * MINUTE) out.push(at);
    before = at;
  }
  return out;
}

/** Sittings begun, ever or in a window. */
export const visits: Measure = {
  name: 'visits',
  mergeField: 'student.visits',
  family: 'away',
  countsVisits: true,
  unit: 'count',
  title: 'Visits to the course',
  parameters: { window: windowSchema.optional() },
  timeline: (subject, call) =>
    whereVisitsAreKnown(subject, countInWindow(sittings(subject), call.window, subject.story, subject.course.calendar)),
  fact: (subject, _call, t) =>
    lastSeenOnly(subject, t) ?? { kind: 'last', what: 'visit', at: subject.log.latest(VISITS, t) },
  label: (call) => `visits${windowWords(call.window, dateWords)}`,
  clause(test, call, course) {
    const when = spokenWindow(call.window, course);
    if (isForNone(test)) return { lead: 'have', marked: `not visited the course${when}` };
    return { lead: 'have', marked: `visited ${comparisonWords({ ...test, value: counted(test, 'time') })}${when}` };
  },
  known: (call, course) => {
    const when = spokenWindow(call.window, course);
    return [`no known visits${when}`, `a known number of visits${when}`];
  },
  phrases: [
    'visited [course] {n:times} {window}',
    { say: 'not|never visit|visited|been [course|here] {window}', is: '<', value: 1 },
    { say: 'no known visits {window}', is: 'empty' },
    { say: 'known number of visits {window}', is: 'filled' },
    { say: 'no|without visit|visits {window}', is: '<', value: 1 },
    '{n:visit|visits} {window}',
    { say: 'visited [course] {window}', is: '>=', value: 1 },
  ],
};
