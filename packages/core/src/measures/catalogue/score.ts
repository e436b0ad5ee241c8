import { z } from 'zod';
import { counts } from '../../course/course.ts';
import { comparisonWords, itemIndexOf, itemOf, type Measure, spokenItem } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { NOT_APPLICABLE } from '../values/timeline.ts';
import { percent } from '../values/value.ts';

/** The latest grade of an item in percent of its points; unknown while ungraded, so it never reads as low. */
export const score: Measure = {
  name: 'score',
  mergeField: 'item.score',
  family: 'grades',
  unit: 'percent',
  title: 'Score on an item',
  parameters: { item: z.string() },
  timeline(subject, call) {
    const item = itemOf(subject.course, call);
    if (!counts(item, subject.person)) return NOT_APPLICABLE;
    const index = itemIndexOf(subject.course, call);
    const steps = new NumbersBuilder().set(subject.story, null);
    for (const g of subject.log.grades) {
      if (g.item !== index || g.criterion !== null) continue;
      steps.set(Math.max(g.at, subject.story), item.points ? percent(g.points, item.points) : null);
    }
    return steps.build();
  },
  fact(subject, call, t) {
    const item = itemOf(subject.course, call);
    if (!counts(item, subject.person)) return { kind: 'doesNotCount' };
    const index = itemIndexOf(subject.course, call);
    const latest = subject.log.grades.filter((g) => g.item === index && g.criterion === null && g.at <= t).at(-1);
    return latest ? { kind: 'score', points: latest.points, of: item.points, at: latest.at } : { kind: 'ungraded' };
  },
  label: (call, course) => `score on ${itemOf(course, call).title}`,
  clause: (test, call, course) => ({
    lead: 'scored',
    marked: `${comparisonWords(test)} on ${spokenItem(course, call)}`,
  }),
  known: (call, course) => [`no grade yet on ${spokenItem(course, call)}`, `a grade on ${spokenItem(course, call)}`],
  phrases: [
    '[scored|with|got] {n:%} on|for {item}',
    { say: 'no grade [yet] on|for {item}', is: 'empty' },
    { say: 'grade on|for {item}', is: 'filled' },
    '{item} [score|grade] [of|is|was] {n:%}',
    { say: '{item} not graded [yet]', is: 'empty' },
  ],
};
