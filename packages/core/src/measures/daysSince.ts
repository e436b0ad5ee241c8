/** The three absences: whole course days since the last sign-in, visit or participation, counted from the story's start at the earliest. */
import { PARTICIPATION, SIGN_INS, VISITS } from '../activity/event.ts';
import { HOUR, type Instant } from '../time/instant.ts';
import { StepsBuilder, type Timeline } from './timeline.ts';
import { comparisonWords, type Clause, type ClauseTest, type Measure, type Subject } from './measure.ts';

/** No day is shorter than 23 hours, so most gaps need no calendar. */
const SHORTEST_DAY = 23 * HOUR;

/**
 * Steps of "whole course days since the latest event of the kinds in `mask`" (engine M3). Each event opens a run 0, 1, 2 …
 * that the next one ends; up to the horizon.
 */
function daysSinceSteps(subject: Subject, mask: number): Timeline {
  const { calendar } = subject.course;
  const { times, codes, length } = subject.log;
  const steps = new StepsBuilder().set(subject.story, 0);
  let from = subject.story;
  let counting = false;
  const run = (until: Instant) => {
    for (let n = 1; ; n++) {
      const at = calendar.addCourseDays(from, n);
      if (at >= until) return;
      steps.set(at, n);
      counting = true;
    }
  };
  for (let i = 0; i < length; i++) {
    const at = times[i]!;
    if (at <= from || ((1 << (codes[i]! & 15)) & mask) === 0) continue;
    if (at - from >= SHORTEST_DAY) run(at);
    if (counting) {
      steps.set(at, 0);
      counting = false;
    }
    from = at;
  }
  run(Math.max(subject.horizon, from + 1));
  return steps.build();
}

function absence(of: {
  name: 'daysSinceSignIn' | 'daysSinceVisit' | 'daysSinceParticipation';
  mergeField: string;
  mask: number;
  what: 'signIn' | 'visit' | 'participation';
  verb: string;
  title: string;
  label: string;
}): Measure {
  return {
    name: of.name,
    mergeField: of.mergeField,
    family: 'away',
    unit: 'days',
    title: of.title,
    parameters: {},
    timeline: (subject) => daysSinceSteps(subject, of.mask),
    fact: (subject, _call, t) => ({ kind: 'last', what: of.what, at: subject.log.latest(of.mask, t) }),
    label: () => of.label,
    clause: (test) => absenceClause(test, of.verb),
  };
}

function absenceClause(test: ClauseTest, verb: string): Clause {
  if (test.is === '>=') return { lead: 'have', marked: `not ${verb} for ${test.value}` };
  if (test.is === '<') return { lead: 'have', marked: `${verb} within the last ${test.value}` };
  return { lead: 'last', marked: `${verb} ${comparisonWords(test)} ago` };
}

export const daysSinceSignIn = absence({
  name: 'daysSinceSignIn',
  mergeField: 'student.days_since_sign_in',
  mask: SIGN_INS,
  what: 'signIn',
  verb: 'signed in',
  title: 'Days since the last sign-in',
  label: 'days since last sign-in',
});

export const daysSinceVisit = absence({
  name: 'daysSinceVisit',
  mergeField: 'student.days_since_visit',
  mask: VISITS,
  what: 'visit',
  verb: 'visited the course',
  title: 'Days since the last visit',
  label: 'days since last visit',
});

export const daysSinceParticipation = absence({
  name: 'daysSinceParticipation',
  mergeField: 'student.days_since_participation',
  mask: PARTICIPATION,
  what: 'participation',
  verb: 'taken part',
  title: 'Days since they last took part',
  label: 'days since last taking part',
});
