import { z } from 'zod';
import { numberIn, rangeError } from '../../problem/rangeSchema.ts';
import type { StoredGrade } from '../../activity/history.ts';
import { markSchema } from '../../course/mark.ts';
import { exactWords } from '../../time/words.ts';
import { gradesFact, gradesOf, scoreOf } from './gradesOver.ts';
import { comparisonWords, type Measure, type MeasureCall, type Subject, counted } from '../values/measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { PERCENT_RANGE } from '../values/range.ts';
import { round9 } from '../values/value.ts';
import { spokenName } from '../../course/spokenName.ts';
import type { Course } from '../../course/course.ts';

/** How many graded items have a score on one side of `than`. */
export function countOfScores(spec: {
  name: 'lowScores' | 'highScores';
  mergeField: string;
  title: string;
  word: string;
  /** The same as a phrase. */
  say: string;
  fits: (score: number, than: number) => boolean;
}): Measure {
  const fitting = (subject: Subject, call: MeasureCall, t: number): StoredGrade[] => {
    const than = thanOf(call, subject);
    const latest = new Map<number, StoredGrade>();
    for (const g of gradesOf(subject, call)) if (g.at <= t) latest.set(g.item, g);
    return [...latest.values()].filter((g) => {
      const score = scoreOf(subject, g);
      return score !== null && spec.fits(score, than);
    });
  };
  const rest = (call: MeasureCall, course: Course) =>
    `${spec.word} ${spokenThan(call, course)}${severalWords(call, course)}`;
  return {
    name: spec.name,
    mergeField: spec.mergeField,
    family: 'grades',
    unit: 'count',
    title: spec.title,
    parameters: {
      than: z.union([numberIn(PERCENT_RANGE), markSchema], { error: rangeError(PERCENT_RANGE) }),
      ...severalParameters,
    },
    ranges: { than: PERCENT_RANGE },
    timeline(subject, call) {
      const steps = new NumbersBuilder();
      const than = thanOf(call, subject);
      const now = new Map<number, boolean>();
      const count = () => [...now.values()].filter(Boolean).length;
      steps.set(subject.story, 0);
      for (const g of gradesOf(subject, call)) {
        const score = scoreOf(subject, g);
        now.set(g.item, score !== null && spec.fits(score, than));
        steps.set(Math.max(g.at, subject.story), count());
      }
      return steps.build();
    },
    fact: (subject, call, t) => gradesFact(subject, fitting(subject, call, t)),
    label: (call, course) => `scores ${spec.word} ${thanWords(call)}${severalWords(call, course)}`,
    clause: (test, call, course) => ({
      lead: 'have',
      marked: `${comparisonWords({ ...test, value: counted(test, 'score') })} ${rest(call, course)}`,
    }),
    known: (call, course) => [
      `no known scores ${rest(call, course)}`,
      `a known number of scores ${rest(call, course)}`,
    ],
    phrases: [
      `{n:score|scores} ${spec.say} {than} {several}`,
      { say: `no known scores ${spec.say} {than} {several}`, is: 'empty' },
      { say: `known number of scores ${spec.say} {than} {several}`, is: 'filled' },
      { say: `no scores ${spec.say} {than} {several}`, is: '<', value: 1 },
    ],
  };
}

const thanWords = (call: MeasureCall): string =>
  typeof call.than === 'object' ? `the ${call.than.mark} score` : `${call.than}%`;

const spokenThan = (call: MeasureCall, course: Course): string =>
  typeof call.than === 'object'
    ? `the ${spokenName(course, 'mark', call.than.mark)} score`
    : `${exactWords(call.than ?? 0)}%`;

function thanOf(call: MeasureCall, subject: Subject): number {
  const than = typeof call.than === 'object' ? subject.course.marks[call.than.mark] : call.than;
  if (than === undefined) throw new Error(`No mark “${JSON.stringify(call.than)}” in ${subject.course.code}`);
  return round9(than);
}
