import { z } from 'zod';
import { numberIn, rangeError } from '../../problem/range.ts';
import type { StoredGrade } from '../../activity/history.ts';
import { markSchema } from '../../course/mark.ts';
import { plural } from '../../time/words.ts';
import { gradesFact, gradesOf, scoreOf } from './gradesOver.ts';
import { comparisonWords, type Measure, type MeasureCall, type Subject } from '../values/measure.ts';
import { severalParameters, severalWords } from './several.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { PERCENT_RANGE } from '../values/range.ts';
import { round9 } from '../values/value.ts';

/** How many graded items have a score on one side of `than`. */
export function countOfScores(spec: {
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
      return score !== null && spec.fits(score, than);
    });
  };
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
    clause(test, call, course) {
      const value = typeof test.raw === 'number' ? plural(test.raw, 'score') : test.value;
      return {
        lead: 'have',
        marked: `${comparisonWords({ ...test, value })} ${spec.word} ${thanWords(call)}${severalWords(call, course)}`,
      };
    },
  };
}

const thanWords = (call: MeasureCall): string =>
  typeof call.than === 'object' ? `the ${call.than.mark} score` : `${call.than}%`;

function thanOf(call: MeasureCall, subject: Subject): number {
  const than = typeof call.than === 'object' ? subject.course.marks[call.than.mark] : call.than;
  if (than === undefined) throw new Error(`No mark “${JSON.stringify(call.than)}” in ${subject.course.code}`);
  return round9(than);
}
