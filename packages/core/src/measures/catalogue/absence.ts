/** What the three absences share: whole course days since the last sign-in, visit or participation, counted from the story's start at the earliest. */
import { handOut, borrowRoom } from '../../time/room.ts';
import type { Gaps, Presence } from '../../activity/history.ts';
import type { Timeline } from '../values/timeline.ts';
import {
  comparisonWords,
  type Clause,
  type ABSENCES,
  type ClauseTest,
  type Measure,
  type Phrase,
  type Subject,
} from '../values/measure.ts';

/**
 * Steps of "whole course days since the latest such event" (engine M3). Each event opens a run 0, 1, 2 … that the next one
 * ends; up to the horizon. Only gaps of a day and more are looked at.
 */
function daysSinceSteps(subject: Subject, gaps: Gaps): Timeline {
  const { calendar } = subject.course;
  const { story } = subject;
  const steps = borrowRoom();
  steps[0] = story;
  steps[1] = 0;
  let n = 2;
  for (let i = 0; i < gaps.list.length; i += 2) {
    const until = gaps.list[i + 1]!;
    if (until <= story) continue;
    const before = n;
    n = calendar.courseDaysInto(steps, n, Math.max(gaps.list[i]!, story), until);
    if (n === before) continue;
    steps[n++] = until;
    steps[n++] = 0;
  }
  const from = Math.max(gaps.last, story);
  n = calendar.courseDaysInto(steps, n, from, Math.max(subject.horizon, from + 1));
  return { kind: 'numbers', steps: handOut(steps, n) };
}

/** A measure of absence from one kind of presence. */
export function absence(spec: {
  name: (typeof ABSENCES)[number];
  mergeField: string;
  presence: Presence;
  mask: number;
  what: 'signIn' | 'visit' | 'participation';
  verb: string;
  noun: string;
  phrases: readonly Phrase[];
  title: string;
  label: string;
}): Measure {
  return {
    name: spec.name,
    mergeField: spec.mergeField,
    family: 'away',
    unit: 'days',
    title: spec.title,
    parameters: {},
    timeline: (subject) => daysSinceSteps(subject, subject.log.gaps(spec.presence)),
    fact: (subject, _call, t) => ({ kind: 'last', what: spec.what, at: subject.log.latest(spec.mask, t) }),
    label: () => spec.label,
    clause: (test) => absenceClause(test, spec.verb),
    known: () => [`no known last ${spec.noun}`, `a known last ${spec.noun}`],
    phrases: [
      `not ${spec.verb} for {n:days}`,
      { say: `${spec.verb} within last {x:days}`, is: '<' },
      `[last] ${spec.verb} {n:days} ago`,
      { say: `no known last ${spec.noun}`, is: 'empty' },
      { say: `known last ${spec.noun}`, is: 'filled' },
      ...spec.phrases,
    ],
  };
}

function absenceClause(test: ClauseTest, verb: string): Clause {
  if (test.is === '>=') return { lead: 'have', marked: `not ${verb} for ${test.value}` };
  if (test.is === '<') return { lead: 'have', marked: `${verb} within the last ${test.value}` };
  return { lead: 'last', marked: `${verb} ${comparisonWords(test)} ago` };
}
