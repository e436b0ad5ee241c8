import { numberIn } from '../../problem/rangeSchema.ts';
import { LAST_DAYS_RANGE } from '../../time/window.ts';
import { oneDecimal, plural } from '../../time/words.ts';
import { GradeTally } from './courseGrade.ts';
import { comparisonWords, type Measure, type MeasureCall, type Subject, belowZero } from '../values/measure.ts';
import { NumbersBuilder } from '../values/numbersBuilder.ts';
import { round9 } from '../values/value.ts';

/** The course grade now minus the one made of grades that are n days back: x + n days ≤ t (engine T5). */
export const gradeChange: Measure = {
  name: 'gradeChange',
  mergeField: 'student.grade_change',
  family: 'grades',
  unit: 'points',
  title: 'Change of the course grade',
  parameters: { days: numberIn(LAST_DAYS_RANGE) },
  ranges: { days: LAST_DAYS_RANGE },
  timeline(subject, call) {
    const now = new GradeTally(subject);
    const before = new GradeTally(subject);
    const steps = new NumbersBuilder().set(subject.story, null);
    const changes = [
      ...subject.log.grades.map((grade) => ({ at: grade.at, grade, tally: now })),
      ...subject.log.grades.map((grade) => ({ at: agedAt(subject, call, grade.at), grade, tally: before })),
    ].sort((a, b) => a.at - b.at);
    for (const { at, grade, tally } of changes) {
      tally.take(grade);
      steps.set(Math.max(at, subject.story), difference(now.value(), before.value()));
    }
    return steps.build();
  },
  fact(subject, call, t) {
    const now = GradeTally.at(subject, t).value();
    const old = new GradeTally(subject);
    for (const g of subject.log.grades) if (agedAt(subject, call, g.at) <= t) old.take(g);
    const before = old.value();
    return now === null || before === null ? { kind: 'ungraded' } : { kind: 'change', before, now };
  },
  valueWords: (value, call) =>
    value === 0
      ? `unchanged in ${plural(call.days ?? 0, 'day')}`
      : `${plural(Number(oneDecimal(Math.abs(value))), 'point')} ${value < 0 ? 'down' : 'up'} in ${plural(call.days ?? 0, 'day')}`,
  label: (call) => `change of the course grade in ${plural(call.days ?? 0, 'day')}`,
  clause(test, call) {
    const span = `in ${plural(call.days ?? 0, 'day')}`;
    const fall = belowZero(test);
    if (fall) return { lead: 'have', marked: `a grade that fell by ${comparisonWords(fall)} ${span}` };
    return { lead: 'have', marked: `a grade that changed by ${comparisonWords(test)} ${span}` };
  },
  known: (call) => {
    const span = `in ${plural(call.days ?? 0, 'day')}`;
    return [`no known change of grade ${span}`, `a known change of grade ${span}`];
  },
  phrases: [
    { say: 'grade that|which fell|dropped by {n:points} in {days}', isBelow: true },
    'grade that|which changed by {n:points} in {days}',
    { say: 'no known change of grade in {days}', is: 'empty' },
    { say: 'known change of grade in {days}', is: 'filled' },
    { say: '[course] grade fell|dropped [by] {n:points} in [last] {days}', isBelow: true },
  ],
};

const agedAt = (subject: Subject, call: MeasureCall, at: number): number =>
  subject.course.calendar.addDays(at, call.days ?? 0);

const difference = (now: number | null, before: number | null): number | null =>
  now === null || before === null ? null : round9(now - before);
