/** Measures over the grades of several items: the latest score, its age, and how many lie under or over a score. */
import { z } from 'zod';
import { counts } from '../course/course.ts';
import type { StoredGrade } from '../activity/history.ts';
import { markSchema } from '../course/mark.ts';
import { plural } from '../time/words.ts';
import { countDays } from './days.ts';
import type { Fact } from './fact.ts';
import { comparisonWords, severalItems, type Measure, type MeasureCall, type Subject } from './measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { StepsBuilder } from './timeline.ts';
import { percent, round9 } from './value.ts';

/** Grades of the call's items that count, criteria aside, in order; at one instant the later item in the course last. */
function gradesOf(subject: Subject, call: MeasureCall): StoredGrade[] {
  const wanted = new Set(
    severalItems(subject.course, call).filter((i) => counts(subject.course.items[i]!, subject.person)),
  );
  const grades = subject.log.grades.filter((g) => g.criterion === null && wanted.has(g.item));
  return grades
    .map((g, i) => [g, i] as const)
    .sort((a, b) => a[0].at - b[0].at || a[0].item - b[0].item || a[1] - b[1])
    .map(([g]) => g);
}

const scoreOf = (subject: Subject, g: StoredGrade): number | null => {
  const of = subject.course.items[g.item]!.points;
  return of ? percent(g.points, of) : null;
};

function gradesFact(subject: Subject, grades: readonly StoredGrade[]): Fact {
  return {
    kind: 'grades',
    grades: grades.map((g) => ({ title: subject.course.items[g.item]!.title, score: scoreOf(subject, g), at: g.at })),
  };
}

const latestAt = (subject: Subject, call: MeasureCall, t: number) =>
  gradesOf(subject, call)
    .filter((g) => g.at <= t)
    .at(-1);

export const latestScore: Measure = {
  name: 'latestScore',
  mergeField: 'student.latest_score',
  family: 'grades',
  unit: 'percent',
  title: 'Latest score',
  parameters: severalParameters,
  timeline(subject, call) {
    const steps = new StepsBuilder().set(subject.story, null);
    for (const g of gradesOf(subject, call)) steps.set(Math.max(g.at, subject.story), scoreOf(subject, g));
    return steps.build();
  },
  fact(subject, call, t) {
    const latest = latestAt(subject, call, t);
    return latest ? gradesFact(subject, [latest]) : { kind: 'ungraded' };
  },
  label: (call, course) => `latest score${severalWords(call, course)}`,
  clause: (test, call, course) => ({
    lead: 'have',
    marked: `a latest score of ${comparisonWords(test)}${severalWords(call, course)}`,
  }),
};

export const daysSinceGrade: Measure = {
  name: 'daysSinceGrade',
  mergeField: 'student.days_since_grade',
  family: 'grades',
  unit: 'days',
  title: 'Days since the latest grade',
  parameters: severalParameters,
  timeline(subject, call) {
    const steps = new StepsBuilder().set(subject.story, null);
    const instants = [...new Set(gradesOf(subject, call).map((g) => g.at))];
    instants.forEach((at, i) => {
      const until = instants[i + 1] ?? Math.max(subject.horizon, at + 1, subject.story + 1);
      if (until > subject.story) countDays(steps, subject.course.calendar, at, Math.max(at, subject.story), until);
    });
    return steps.build();
  },
  fact: (subject, call, t) => ({ kind: 'last', what: 'grade', at: latestAt(subject, call, t)?.at ?? null }),
  label: (call, course) => `days since the latest grade${severalWords(call, course)}`,
  clause: (test, call, course) => ({
    lead: 'got',
    marked: `their latest grade${severalWords(call, course)} ${comparisonWords(test)} ago`,
  }),
};

/** How many graded items have a score on one side of `than`. */
function countOfScores(of: {
  name: 'lowScores' | 'highScores';
  mergeField: string;
  title: string;
  word: string;
  fits: (score: number, than: number) => boolean;
}): Measure {
  const fitting = (subject: Subject, call: MeasureCall, t: number): StoredGrade[] => {
    const than = thanOf(call, subject);
    const latest = new Map<number, StoredGrade>();
    for (const g of gradesOf(subject, call)) if (g.at <= t) latest.set(g.item, g);
    return [...latest.values()].filter((g) => {
      const score = scoreOf(subject, g);
      return score !== null && of.fits(score, than);
    });
  };
  return {
    name: of.name,
    mergeField: of.mergeField,
    family: 'grades',
    unit: 'count',
    title: of.title,
    parameters: { than: z.union([z.number(), markSchema]), ...severalParameters },
    timeline(subject, call) {
      const steps = new StepsBuilder();
      const than = thanOf(call, subject);
      const now = new Map<number, boolean>();
      const count = () => [...now.values()].filter(Boolean).length;
      steps.set(subject.story, 0);
      for (const g of gradesOf(subject, call)) {
        const score = scoreOf(subject, g);
        now.set(g.item, score !== null && of.fits(score, than));
        steps.set(Math.max(g.at, subject.story), count());
      }
      return steps.build();
    },
    fact: (subject, call, t) => gradesFact(subject, fitting(subject, call, t)),
    label: (call, course) => `scores ${of.word} ${thanWords(call)}${severalWords(call, course)}`,
    clause(test, call, course) {
      const value = typeof test.raw === 'number' ? plural(test.raw, 'score') : test.value;
      return {
        lead: 'have',
        marked: `${comparisonWords({ ...test, value })} ${of.word} ${thanWords(call)}${severalWords(call, course)}`,
      };
    },
  };
}

const thanWords = (call: MeasureCall): string =>
  typeof call.than === 'object' ? `the ${call.than.mark} mark` : `${call.than}%`;

function thanOf(call: MeasureCall, subject: Subject): number {
  const than = typeof call.than === 'object' ? subject.course.marks[call.than.mark] : call.than;
  if (than === undefined) throw new Error(`No mark “${JSON.stringify(call.than)}” in ${subject.course.code}`);
  return round9(than);
}

export const lowScores = countOfScores({
  name: 'lowScores',
  mergeField: 'student.low_scores',
  title: 'How many low scores',
  word: 'under',
  fits: (score, than) => score < than,
});

export const highScores = countOfScores({
  name: 'highScores',
  mergeField: 'student.high_scores',
  title: 'How many high scores',
  word: 'at or over',
  fits: (score, than) => score >= than,
});
