import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '@zest-bell/core/course';
import { MEASURE_NAMES } from '@zest-bell/core/measures';
import { parseCondition } from '@zest-bell/core/conditions';
import { courseProblems, parseRule, ruleDocument } from '@zest-bell/core/rules';
import { columnsOf, defaultLeaf, newRule } from './ruleDefaults.ts';

const START = Date.parse('2026-08-31T04:00:00Z');
const DAY = 86_400_000;
const item = (id: string, kind: 'page' | 'quiz' | 'assignment' | 'forum' | 'practice', opens = 0) => ({
  id,
  title: id,
  kind,
  group: `${kind}s`,
  points: 10,
  opensAt: START + opens * DAY,
  dueAt: START + (opens + 7) * DAY,
  topics: [],
  excused: [],
  extensions: [],
});
const course = makeCourse({
  code: 'NAV 120',
  title: 'Coastal Navigation',
  timeZone: 'America/New_York',
  start: '2026-08-31',
  end: '2026-12-18',
  breaks: [],
  groupWeights: null,
  marks: { mastery: 80 },
  settings: { quietHours: null, budget: null },
  people: [
    {
      id: 'p1',
      firstName: 'Imani',
      lastName: 'Okoro',
      email: null,
      role: 'student',
      section: null,
      active: true,
      enrolledAt: START,
      paused: false,
      contacts: [],
      fields: { tutor: 'Ada' },
    },
  ],
  items: [
    item('syllabus', 'page'),
    item('quiz-1', 'quiz'),
    item('quiz-2', 'quiz', 14),
    item('quiz-3', 'quiz', 60),
    item('lab', 'assignment'),
    item('forum', 'forum'),
    item('drill', 'practice'),
  ],
});
const now = START + 20 * DAY;

describe('a first condition on a measure', () => {
  test.each(MEASURE_NAMES)('%s fits the course as it stands', (measure) => {
    const leaf = defaultLeaf(measure, course, now);
    const rule = { ...newRule(course, now, 'gentle'), when: leaf };
    expect(parseCondition(leaf)).toMatchObject({ ok: true });
    expect(courseProblems(rule, course)).toEqual([]);
  });

  test('is about the latest item that is already open', () => {
    expect(defaultLeaf('score', course, now).item).toBe('lab');
    expect(defaultLeaf('opens', course, now).item).toBe('syllabus');
    expect(defaultLeaf('field', course, now).name).toBe('tutor');
    expect(columnsOf(course)).toEqual(['tutor']);
  });

  test('can be made in a course without items and columns, and then says what is missing', () => {
    const bare = makeCourse({ ...course, items: [], people: [] });
    for (const measure of MEASURE_NAMES) expect(defaultLeaf(measure, bare, now).measure).toBe(measure);
  });
});

describe('a new rule', () => {
  test('is a sound draft that looks from today on until the course’s end', () => {
    const rule = newRule(course, now, 'gentle');
    expect(parseRule(ruleDocument(rule, course.timeZone))).toMatchObject({ ok: true });
    expect(rule).toMatchObject({ status: 'draft', rhythm: { start: '2026-09-20T09:30', until: '2026-12-18' } });
  });

  test('begins with the course when that is still to come', () => {
    expect(newRule(course, START - 30 * DAY, 'gentle').rhythm.start).toBe('2026-08-31T09:30');
  });
});
