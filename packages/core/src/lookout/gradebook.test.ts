import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { conditionSentence } from '../conditions/sentence.ts';
import { at, factsOf, item, person } from '../testing/build.ts';
import type { MeasureCall } from '../measures/values/measure.ts';
import { valueAt } from '../measures/values/timeline.ts';
import { runs } from '../testing/runs.ts';
import { Gradebook } from './gradebook.ts';
import { itemCondition, itemSubject, type ItemQuestion } from './itemQuestion.ts';
import { classOverview } from './overview.ts';
import { ASK_NOTHING, LookoutTable } from './table.ts';

const facts = factsOf({
  people: [
    person('p1', { firstName: 'Imani' }),
    person('p2', { firstName: 'Kofi' }),
    person('p3', { firstName: 'Lena' }),
    person('new', { firstName: 'Priya', enrolledAt: at('2026-09-21T09:00') }),
    person('gone', { active: false }),
    person('ada', { role: 'instructor' }),
  ],
  items: [
    item('q1', { title: 'Tide quiz', group: 'Quizzes', dueAt: at('2026-09-13T23:59') }),
    item('lab', {
      title: 'Chart lab',
      kind: 'assignment',
      group: 'Labs',
      points: 40,
      dueAt: at('2026-09-20T23:59'),
      excused: ['p3'],
    }),
    item('talk', { title: 'Watch log', kind: 'forum', points: null, group: 'Talk', dueAt: at('2026-09-27T17:00') }),
    item('syl', { title: 'Syllabus', kind: 'page', points: null }),
  ],
  groupWeights: { Quizzes: 40, Labs: 60 },
  events: [
    ['p1', 'submit', '2026-09-12T10:00', 'q1'],
    ['p1', 'submit', '2026-09-22T10:30', 'lab'],
    ['p2', 'submit', '2026-09-13T23:59', 'q1'],
    ['p3', 'post', '2026-09-24T08:00', 'talk'],
    ['p3', 'open', '2026-09-24T23:30', 'syl'],
  ],
  grades: [
    ['p1', 'q1', 16, '2026-09-15T08:00'],
    ['p2', 'q1', 10, '2026-09-15T08:00'],
    // Handed in on paper: a grade makes it done, and on time.
    ['p3', 'q1', 12, '2026-09-16T08:00'],
    ['p2', 'q1', 13, '2026-09-18T08:00'],
  ],
});
const { course } = facts;
const now = at('2026-09-25T09:00');
const bookAt = (t: number) => Gradebook.of(course, facts.students(), t);
const measured = (student: string, call: MeasureCall, t: number) =>
  valueAt(facts.timeline(course.personIndex.get(student)!, call), t) ?? null;
const column = (id: string) => bookAt(now).about.items.indexOf(id);
const cell = (student: string, id: string, t = now) => {
  const book = bookAt(t);
  return book.cell(book.about.students.indexOf(student), book.about.items.indexOf(id));
};

describe('the gradebook', () => {
  test('has a column for whatever is worth points or due, and a row for every active student', () => {
    expect(bookAt(now).about).toMatchObject({
      students: ['p1', 'p2', 'p3', 'new'],
      items: ['q1', 'lab', 'talk'],
      groups: ['Quizzes', 'Labs', 'Talk'],
    });
  });

  test('[H5] [H6] [H7] says of each item what came of it', () => {
    expect(cell('p1', 'q1')).toMatchObject({ state: 'onTime', points: 16, score: 80, awaitsGrade: false });
    expect(cell('p1', 'lab')).toMatchObject({ state: 'late', points: null, awaitsGrade: true });
    expect(cell('p2', 'q1').doneAt).toBe(at('2026-09-13T23:59'));
    expect(cell('p2', 'q1').state).toBe('onTime');
    expect(cell('p2', 'lab').state).toBe('missing');
    expect(cell('p2', 'talk').state).toBe('open');
    expect(cell('p3', 'q1')).toMatchObject({ state: 'onTime', doneAt: at('2026-09-16T08:00') });
    expect(cell('p3', 'lab')).toMatchObject({ state: 'excused', dueAt: null });
    // A post is worth no points here: nothing waits for a grade.
    expect(cell('p3', 'talk')).toMatchObject({ state: 'onTime', awaitsGrade: false });
    expect(cell('new', 'q1').state).toBe('before');
    expect(cell('new', 'talk').state).toBe('open');
  });

  test('[H2] [H3] as of an earlier instant it is what was known then', () => {
    const then = at('2026-09-17T12:00');
    expect(cell('p2', 'q1', then)).toMatchObject({ points: 10, gradedAt: at('2026-09-15T08:00') });
    expect(cell('p2', 'q1')).toMatchObject({ points: 13, gradedAt: at('2026-09-18T08:00') });
    expect(cell('p1', 'lab', then)).toMatchObject({ state: 'open', doneAt: null });
  });

  test('means are over those who are graded', () => {
    const book = bookAt(now);
    // (80 + 65 + 60) ÷ 3, worked out by hand.
    expect(book.summary(column('q1'))).toMatchObject({ counted: 3, onTime: 3, graded: 3, awaiting: 0 });
    expect(book.summary(column('q1')).mean).toBeCloseTo(205 / 3, 9);
    expect(book.summary(column('lab'))).toMatchObject({ counted: 2, late: 1, missing: 1, awaiting: 1, mean: null });
    expect([0, 1, 2, 3].map((row) => book.courseGrade(row))).toEqual([80, 65, 60, null]);
    expect(book.meanCourseGrade()).toBeCloseTo(205 / 3, 9);
    expect(book.groupGrade(0, 0)).toBe(80);
    expect(book.groupGrade(0, 1)).toBeNull();
    expect(book.meanGroupGrade(0)).toBeCloseTo(205 / 3, 9);
    expect(book.meanGroupGrade(1)).toBeNull();
  });

  test('is the same after it was sent; other bytes are none', () => {
    const book = bookAt(now);
    const again = Gradebook.unpack(book.packed())!;
    expect(again.about).toEqual(book.about);
    expect(again.cell(1, 0)).toEqual(book.cell(1, 0));
    expect(Gradebook.unpack(new Uint8Array([1, 2, 3]))).toBeNull();
  });

  test('agrees with the measures on missing, late, score and course grade, whatever the instant', () => {
    const graded = { items: ['q1', 'lab', 'talk'] };
    const instant = fc.integer({ min: at('2026-08-31T00:00'), max: at('2026-10-10T00:00') });
    fc.assert(
      fc.property(instant, (t) => {
        const book = bookAt(t);
        book.about.students.forEach((student, row) => {
          // Before the story of a student starts, measures say nothing.
          if (t < course.people[course.personIndex.get(student)!]!.enrolledAt) return;
          const cells = book.about.items.map((_, c) => book.cell(row, c));
          expect(cells.filter((c) => c.state === 'missing')).toHaveLength(
            measured(student, { measure: 'missing', ...graded }, t) as number,
          );
          expect(cells.filter((c) => c.state === 'late')).toHaveLength(
            measured(student, { measure: 'late', ...graded }, t) as number,
          );
          expect(book.courseGrade(row)).toEqual(measured(student, { measure: 'courseGrade' }, t));
          book.about.items.forEach((id, c) => {
            const { state, score } = cells[c]!;
            if (state !== 'excused' && state !== 'before')
              expect(score).toEqual(measured(student, { measure: 'score', item: id }, t) ?? null);
          });
        });
      }),
      runs(31, 60),
    );
  });
});

describe('what is asked of an item', () => {
  const lab = course.items[1]!;
  const names = (question: ItemQuestion, of = course.items[0]!, t = now) => {
    const table = new LookoutTable(facts, t);
    const query = { ...ASK_NOTHING, when: itemCondition(of, question) };
    return [...table.show(query).rows].map((row) => course.people[table.people[row]!]!.firstName).sort();
  };

  test('finds just those, and never one who need not do it', () => {
    expect(names({ kind: 'notSubmitted' }, lab)).toEqual(['Kofi']);
    expect(names({ kind: 'notGraded', doneOnly: true }, lab)).toEqual(['Imani']);
    expect(names({ kind: 'notGraded', doneOnly: false }, lab)).toEqual(['Imani', 'Kofi']);
    expect(names({ kind: 'under', value: 65 })).toEqual(['Lena']);
    expect(names({ kind: 'over', value: 65 })).toEqual(['Imani']);
    expect(conditionSentence(itemCondition(lab, { kind: 'under', value: 50 }), course)).toBe(
      'scored under 50% on Chart lab',
    );
  });

  test('proposes a subject that is true of them, and no template', () => {
    const zone = course.timeZone;
    expect(itemSubject(lab, { kind: 'notSubmitted' }, now, zone)).toBe('I do not have Chart lab from you yet');
    expect(itemSubject(course.items[2]!, { kind: 'notSubmitted' }, now, zone)).toBe('Watch log is due Sun Sep 27');
    expect(itemSubject(lab, { kind: 'over', value: 90 }, now, zone)).toBe('Well done on Chart lab');
    const hostile = { ...lab, title: '{{ include "x" }}' };
    expect(itemSubject(hostile, { kind: 'under', value: 5 }, now, zone)).not.toMatch(/[{}]/);
  });
});

describe('the class as a whole', () => {
  const overview = classOverview(course, facts.history, bookAt(now), facts.students());

  test('has scores, submissions and what waits, item by item', () => {
    expect(overview.scores).toEqual([
      expect.objectContaining({ item: 'q1', scores: [60, 65, 80], spread: expect.objectContaining({ median: 65 }) }),
    ]);
    expect(overview.submissions.map((s) => [s.item, s.onTime, s.late, s.missing])).toEqual([
      ['q1', 3, 0, 0],
      ['lab', 0, 1, 1],
      ['talk', 1, 0, 0],
    ]);
    // 34 hours 30 minutes after Sunday night’s last minute.
    expect(overview.submissions[1]!.hoursEarly[0]).toBeCloseTo(-34.5 - 1 / 60, 6);
    expect(overview.waiting).toEqual([{ item: 'lab', waiting: 1, days: [2] }]);
  });

  test('says of each item how many have done it, as a condition on it finds them', () => {
    const matching = (item: string, value: boolean) =>
      facts.students().filter(({ person }) => {
        const line = facts.timeline(course.personIndex.get(person.id)!, { measure: 'submitted', item });
        return valueAt(line, now) === value;
      }).length;
    expect(overview.done.map((d) => d.item)).toEqual(
      course.items.filter((i) => i.opensAt === null || i.opensAt <= now).map((i) => i.id),
    );
    for (const { item, did, not } of overview.done)
      expect([item, did, not]).toEqual([item, matching(item, true), matching(item, false)]);
  });

  test('counts a student once a day, in the course’s own hours', () => {
    const day = (d: string) => overview.days.find((x) => x.day === d)!;
    expect(day('2026-09-24')).toEqual({ day: '2026-09-24', active: 1, working: 1, events: 2 });
    // A student counts once in a week, however many days they came.
    for (const week of overview.weeks) {
      const own = overview.days.filter((x) => x.day >= week.from && x.day <= week.to);
      expect(week.events).toBe(own.reduce((sum, x) => sum + x.events, 0));
      expect(week.active).toBeGreaterThanOrEqual(Math.max(...own.map((x) => x.active)));
      expect(week.active).toBeLessThanOrEqual(own.reduce((sum, x) => sum + x.active, 0));
      expect(week.working).toBeLessThanOrEqual(week.active);
    }
    expect(overview.weeks.map((w) => w.week)).toEqual(overview.weeks.map((_, i) => i + 1));
    expect(overview.weeks[0]!.from).toBe(overview.days[0]!.day);
    expect(overview.weeks.at(-1)!.to).toBe(overview.days.at(-1)!.day);
    expect(overview.days.at(-1)!.day).toBe('2026-09-25');
    // Thursday: the post at 8 AM and the page at 11:30 PM, in New York.
    expect(overview.hours[3]![8]).toBe(1);
    expect(overview.hours[3]![23]).toBe(1);
    expect(overview.hours.flat().reduce((a, b) => a + b, 0)).toBe(5);
  });
});
