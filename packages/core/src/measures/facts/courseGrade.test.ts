import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { at, courseOf, item, person } from '../../testing/build.ts';
import { History } from '../../activity/history.ts';
import { runs } from '../../testing/runs.ts';
import { HistoryFacts } from './facts.ts';
import { valueAt } from '../values/timeline.ts';
import { round9 } from '../values/value.ts';

const START = at('2026-09-01T12:00');
const GROUPS = ['Labs', 'Labs', 'Quizzes', 'Quizzes', 'Rest'];

test('[M3] a course grade carried on from grade to grade is the one summed up anew, whole points or not', () => {
  const points = fc.oneof(fc.integer({ min: 0, max: 40 }), fc.constantFrom(0.1, 0.2, 7.3, 2 ** 41, 1 / 3));
  const grade = fc.record({ item: fc.integer({ min: 0, max: 5 }), points });
  const weights = fc.constantFrom<Record<string, number> | null>(
    null,
    { Labs: 60, Quizzes: 40 },
    { Labs: 30 },
    { Rest: 0, Quizzes: 7 },
    { Labs: 1 / 3, Rest: 2 },
  );
  const possible = fc.tuple(...GROUPS.map(() => fc.constantFrom(20, 30, 12.5, null)));
  fc.assert(
    fc.property(fc.array(grade, { maxLength: 14 }), weights, possible, (grades, groupWeights, most) => {
      const items = GROUPS.map((group, i) =>
        item(`i${i}`, { group, points: most[i]!, excused: i === 1 ? ['p1'] : [] }),
      );
      const course = courseOf({ people: [person('p1')], items, ...(groupWeights ? { groupWeights } : {}) });
      const history = new History(course);
      const latest = new Map<number, number>();
      const facts = new HistoryFacts(course, history);
      grades.forEach(({ item: i, points: earned }, k) => {
        if (i >= items.length) return;
        history.addGrade({ person: 'p1', item: `i${i}`, criterion: null, points: earned, at: START + k });
        if (i !== 1 && most[i] !== null) latest.set(i, earned);
        const sums = (group: string | null) => {
          let [sum, whole] = [0, 0];
          GROUPS.forEach((name, j) => {
            if ((group !== null && name !== group) || !latest.has(j)) return;
            sum += latest.get(j)!;
            whole += most[j]!;
          });
          return [sum, whole] as const;
        };
        const positive = Object.entries(groupWeights ?? {}).filter(([, w]) => w > 0);
        const parts = (positive.length === 0 ? [[null, 1] as const] : positive).flatMap(([group, weight]) => {
          const [sum, whole] = sums(group);
          return whole === 0 ? [] : [{ weight, percent: (100 * sum) / whole }];
        });
        const total = parts.reduce((n, p) => n + p.weight, 0);
        const wanted = total === 0 ? null : parts.reduce((n, p) => n + p.weight * p.percent, 0) / total;
        const found = valueAt(facts.timeline(0, { measure: 'courseGrade' }), START + k) as number | null;
        if (wanted === null) expect(found).toBeNull();
        else expect(Math.abs(found! - round9(wanted))).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(wanted)));
      });
    }),
    runs(30, 300),
  );
});
