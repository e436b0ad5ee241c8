/** The three absences: whole course days since the last sign-in, visit or participation, counted from the story's start at the earliest. */
import { PARTICIPATION, SIGN_INS, VISITS } from '../activity/event.ts';
import { HOUR, type Instant } from '../time/instant.ts';
import { StepsBuilder, type Timeline } from './timeline.ts';
import { comparisonWords, type Clause, type ClauseTest, type Measure, type Subject } from './measure.ts';

/**
 * Steps of "whole course days since the latest of `events`" (engine M3). Each event opens a run 0, 1, 2 … that the
 * next one ends; up to the horizon.
 */
export function daysSinceSteps(subject: Subject, events: readonly Instant[]): Timeline {
  const { calendar } = subject.course;
  const steps = new StepsBuilder();
  const run = (from: Instant, until: Instant) => {
    steps.set(from, 0);
    // No day is shorter than 23 hours, so most gaps need no calendar.
    if (until - from < 23 * HOUR) return;
    for (let n = 1; ; n++) {
      const at = calendar.addCourseDays(from, n);
      if (at >= until) return;
      steps.set(at, n);
    }
  };
  let from = subject.story;
  for (const at of events) {
    if (at <= from) continue;
    run(from, at);
    from = at;
  }
  run(from, Math.max(subject.horizon, from + 1));
  return steps.build();
}

const lastAt = (events: readonly Instant[], t: Instant): Instant | null => {
  let last: Instant | null = null;
  for (const at of events) if (at <= t) last = at;
  return last;
};

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
    timeline: (subject) => daysSinceSteps(subject, subject.log.instants(of.mask)),
    fact: (subject, _call, t) => ({ kind: 'last', what: of.what, at: lastAt(subject.log.instants(of.mask), t) }),
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
