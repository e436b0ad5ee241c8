/**
 * How long it takes to read a rule that was typed, in a course of 200 items: the median of many readings, beside the bound of 5 ms for
 * 200 characters, and beside reading the same text twice over, which must not take much more than twice as long.
 */
import { makeCourse } from '@zest-bell/core/course';
import { say } from '@zest-bell/core/saying';

const KINDS = ['Quiz', 'Essay', 'Chart lab', 'Reading'] as const;
const GROUPS = ['Quizzes', 'Essays', 'Labs', 'Readings'] as const;
const RUNS = 200;
/** In ms, for 200 characters in a course of 200 items. */
const BOUND = 5;

const TEXT =
  'students away 5 days who scored under 60% on Quiz 1 and have not turned in Essay 1 or never opened Reading 5, weekdays at ' +
  '9:30, once each time, at most 3 times this term, copy me and their advisor';

const course = () =>
  makeCourse({
    code: 'BIG 1',
    title: 'A course',
    timeZone: 'America/New_York',
    start: '2026-08-31',
    end: '2026-12-18',
    breaks: [],
    groupWeights: null,
    marks: { mastery: 80 },
    settings: { quietHours: null, budget: null },
    people: [],
    items: Array.from({ length: 200 }, (_, i) => ({
      id: `i${i}`,
      title: `${KINDS[i % 4]!} ${Math.floor(i / 4)}`,
      kind: 'quiz',
      group: GROUPS[i % 4]!,
      points: 100,
      opensAt: null,
      dueAt: null,
      topics: [],
      excused: [],
      extensions: [],
    })),
  });

export function benchSaying(): void {
  const of = course();
  const median = (text: string): number => {
    const taken = Array.from({ length: RUNS }, () => {
      const from = performance.now();
      say(text, of);
      return performance.now() - from;
    });
    return taken.toSorted((a, b) => a - b)[RUNS >> 1]!;
  };
  if (say(TEXT, of).rule === null) throw new Error('The sentence is not understood');
  median(TEXT);
  const once = median(TEXT);
  const twice = median(`${TEXT}, ${TEXT}`);
  console.log(
    `a rule of ${TEXT.length} characters takes ${Math.round((100 * once) / BOUND)}% of the bound of ${BOUND} ms`,
  );
  console.log(`twice the text takes ${(twice / once).toFixed(1)} times as long`);
}
