/** The ten rules written out by hand over typed arrays with binary search: what a general evaluator is held against. */
import { HOUR } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { SIGN_IN_EVIDENCE, VISIT_EVIDENCE, kindMask, type History } from '@zest-bell/core/activity';

interface Student {
  readonly visits: Float64Array;
  readonly signIns: Float64Array;
  readonly opens25: Float64Array;
  readonly opens30: Float64Array;
  /** From when on each item is done. */
  readonly done: Float64Array;
  readonly gradeAt: Float64Array;
  readonly gradeItem: Int32Array;
  readonly gradePoints: Float64Array;
}

const ACT = { quiz: 'submit', page: 'open', forum: 'post' } as const;

/** How many values are ≤ t. */
function upTo(values: Float64Array, t: number): number {
  let low = 0;
  let high = values.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if (values[mid]! <= t) low = mid + 1;
    else high = mid;
  }
  return low;
}

export function handWritten(course: Course, history: History): (t: number) => number[][] {
  const { calendar, items } = course;
  const due = Float64Array.from(items, (i) => i.dueAt!);
  const quizzes = items.flatMap((item, i) => (item.group === 'Quizzes' ? [i] : []));
  const students = history.people.map((log): Student => {
    const done = Float64Array.from(items, (item, i) => log.first(kindMask(ACT[item.kind as 'quiz']), i));
    for (const g of log.grades) if (g.points > 0 && g.at < done[g.item]!) done[g.item] = g.at;
    return {
      visits: Float64Array.from(log.instants(VISIT_EVIDENCE)),
      signIns: Float64Array.from(log.instants(SIGN_IN_EVIDENCE)),
      opens25: Float64Array.from(log.instants(kindMask('open'), 25)),
      opens30: Float64Array.from(log.instants(kindMask('open'), 30)),
      done,
      gradeAt: Float64Array.from(log.grades, (g) => g.at),
      gradeItem: Int32Array.from(log.grades, (g) => g.item),
      gradePoints: Float64Array.from(log.grades, (g) => g.points),
    };
  });
  const ago = (t: number, days: number) => calendar.addDays(t, -days);
  return (t) => {
    const found: number[][] = Array.from({ length: 10 }, () => []);
    const [d2, d3, d5, d7, d10] = [3, 3, 5, 7, 10].map((n) => ago(t, n)) as [number, number, number, number, number];
    const left = (due[8]! - t) / HOUR;
    students.forEach((s, i) => {
      const lastVisit = Math.max(calendar.start, s.visits[upTo(s.visits, t) - 1] ?? 0);
      const lastSignIn = Math.max(calendar.start, s.signIns[upTo(s.signIns, t) - 1] ?? 0);
      let missing = 0;
      let missingQuizzes = 0;
      for (let k = 0; k < due.length; k++) if (due[k]! <= t && s.done[k]! > t) missing++;
      for (const k of quizzes) if (due[k]! <= t && s.done[k]! > t) missingQuizzes++;
      let earned = 0;
      let possible = 0;
      let [s3, s5, s9] = [NaN, NaN, NaN];
      const graded = upTo(s.gradeAt, t);
      for (let k = 0; k < graded; k++) {
        const points = s.gradePoints[k]!;
        earned += points;
        possible += 20;
        if (s.gradeItem[k] === 3) s3 = points * 5;
        else if (s.gradeItem[k] === 5) s5 = points * 5;
        else if (s.gradeItem[k] === 9) s9 = points * 5;
      }
      const grade = possible === 0 ? NaN : (100 * earned) / possible;
      if (lastVisit <= d5) found[0]!.push(i);
      if (lastVisit <= d3 && s3 <= 50) found[1]!.push(i);
      if (upTo(s.opens25, t) === 0) found[2]!.push(i);
      if (missingQuizzes >= 2 || grade < 40) found[3]!.push(i);
      if (grade >= 60 && missing <= 10 && lastSignIn > d2) found[4]!.push(i);
      if (lastSignIn <= d7) found[5]!.push(i);
      if (s.done[8]! > t && left <= 48 && left > 0) found[6]!.push(i);
      if (s5 > 95) found[7]!.push(i);
      if (lastVisit <= d10 || (missing >= 12 && grade < 50)) found[8]!.push(i);
      if (upTo(s.opens30, t) >= 3 && s9 < 60) found[9]!.push(i);
    });
    return found;
  };
}
