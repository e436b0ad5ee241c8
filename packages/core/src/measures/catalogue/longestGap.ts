import { kindMask, VISITS } from '../../activity/event.ts';
import { dateWords } from '../../time/words.ts';
import { leavesWindow, windowSchema, windowWords } from '../../time/window.ts';
import { type Measure, type MeasureCall, type Subject, ofWords } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { lastSeenOnly, whereVisitsAreKnown } from './visitsKnown.ts';
import { spokenWindow } from './windowed.ts';

interface Gap {
  readonly from: number;
  readonly until: number;
  readonly leaves: number;
  readonly days: number;
}

const LAST_VISIT = kindMask('lastVisit');

/**
 * The gap before each visit; the start of the story counts as a visit. A last visit from a list starts a gap unless a visit follows it
 * within a course day. It never ends one, because the visits before it are unknown.
 */
function gapsOf(subject: Subject, call: MeasureCall): Gap[] {
  const { calendar } = subject.course;
  const gaps: Gap[] = [];
  let from = subject.story;
  const listed = subject.log.instants(LAST_VISIT).filter((at) => at >= subject.story);
  let next = 0;
  for (const until of subject.log.instants(VISITS)) {
    if (until < subject.story) continue;
    for (; next < listed.length && listed[next]! <= until; next++)
      if (calendar.courseDaysBetween(listed[next]!, until) >= 1) from = listed[next]!;
    const leaves = leavesWindow(until, call.window, calendar);
    if (leaves !== null) gaps.push({ from, until, leaves, days: calendar.courseDaysBetween(from, until) });
    from = until;
  }
  return gaps;
}

/** The greatest number of course days between two visits in succession, of which the later lies in the window. */
export const longestGap: Measure = {
  name: 'longestGap',
  mergeField: 'student.longest_gap',
  family: 'away',
  countsVisits: true,
  unit: 'days',
  title: 'Longest gap between two visits',
  parameters: { window: windowSchema.optional() },
  timeline(subject, call) {
    const steps = new NumbersBuilder().set(subject.story, null);
    const gaps = gapsOf(subject, call);
    // Those that can still be the greatest, longest first: a later, longer one makes the earlier ones pointless.
    const line: Gap[] = [];
    let next = 0;
    while (next < gaps.length || line.length > 0) {
      const arrives = gaps[next]?.until ?? Infinity;
      const leaves = line[0]?.leaves ?? Infinity;
      if (arrives === Infinity && leaves === Infinity) break;
      if (leaves <= arrives) {
        line.shift();
        steps.set(leaves, line[0]?.days ?? null);
      } else {
        const gap = gaps[next++]!;
        while (line.length > 0 && line.at(-1)!.days <= gap.days) line.pop();
        line.push(gap);
        steps.set(gap.until, line[0]!.days);
      }
    }
    return whereVisitsAreKnown(subject, steps.build());
  },
  fact(subject, call, t) {
    const unknown = lastSeenOnly(subject, t);
    if (unknown) return unknown;
    const within = gapsOf(subject, call).filter((g) => g.until <= t && t < g.leaves);
    if (within.length === 0) return { kind: 'last', what: 'visit', at: null };
    const { days, from, until } = within.reduce((a, b) => (b.days > a.days ? b : a));
    return { kind: 'gap', days, from, until };
  },
  label: (call) => `longest gap between visits${windowWords(call.window, dateWords)}`,
  clause(test, call, course) {
    const when = spokenWindow(call.window, course);
    if (test.is === '>=') {
      // A gap counts once it is over (engine M3): within a window, that is a return.
      if (call.window) return { lead: 'came back', marked: `after ${test.value} or more away,${when}` };
      return { lead: 'have', marked: `once stayed away for ${test.value}` };
    }
    return { lead: 'have', marked: `a longest gap ${ofWords(test)}${when}` };
  },
  known: (call, course) => {
    const when = spokenWindow(call.window, course);
    return [`no known gap between visits${when}`, `a known gap between visits${when}`];
  },
  phrases: [
    '[came|come back] after {n:days} away [,] {window}',
    '[once] stayed away for {n:days}',
    'longest gap [of] {n:days} {window}',
    { say: 'no known gap between visits {window}', is: 'empty' },
    { say: 'known gap between visits {window}', is: 'filled' },
  ],
};
