import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '../course/course.ts';
import { conditionSentence } from '../conditions/sentence.ts';
import { at, courseOf, factsOf, item, person, valueOf } from '../testing/build.ts';
import { courseProblems } from '../rules/names.ts';
import { parseRule } from '../rules/rule.ts';
import { ruleDocument } from '../rules/document.ts';
import { adviceOn } from '../rounds/advice/advice.ts';
import { aboutOf } from '../wording/fields.ts';
import { compileWording } from '../wording/render.ts';
import { unfoundedClaims, wordCount } from '../testing/claims.ts';
import type { PresenceKnown } from '../activity/presenceKnown.ts';
import { starterRuleFor } from './starterRule.ts';
import { STARTERS } from './starters.ts';
import { starterFor } from './starterFor.ts';

const group = (g: string) => ({ group: g });
const course = courseOf({
  people: [person('p1', { enrolledAt: at('2026-08-31T00:00') })],
  items: [
    item('welcome', { kind: 'page', title: 'Welcome' }),
    item('syllabus', { kind: 'page', title: 'Syllabus' }),
    item('drill', { kind: 'practice', ...group('Practice') }),
    item('quiz-1', { title: 'Quiz 1', ...group('Quizzes'), dueAt: at('2026-09-13T23:59') }),
    item('quiz-2', { title: 'Quiz 2', ...group('Quizzes'), dueAt: at('2026-10-11T23:59') }),
    item('lab-1', {
      kind: 'assignment',
      title: 'Lab 1',
      ...group('Labs'),
      opensAt: at('2026-09-28T00:00'),
      dueAt: at('2026-10-25T17:00'),
    }),
    item('forum-1', { kind: 'forum', ...group('Discussions'), dueAt: at('2026-10-04T17:00') }),
    item('live-1', {
      kind: 'session',
      ...group('Live'),
      opensAt: at('2026-10-01T10:00'),
      dueAt: at('2026-10-01T10:00'),
    }),
  ],
});
const now = at('2026-09-29T08:00');
const built = (id: string, forCourse = course) => {
  const result = STARTERS.find((s) => s.id === id)!.build(forCourse, now);
  if (!result.ok) throw new Error(result.needs);
  return result.rule;
};

describe.each(STARTERS)('$title', (starter) => {
  test('is a sound rule of this course with words that can be rendered for anyone', () => {
    const rule = built(starter.id);
    expect(parseRule(ruleDocument(rule, course.timeZone))).toMatchObject({ ok: true });
    expect(courseProblems(rule, course)).toEqual([]);
    expect(rule.status).toBe('draft');
    const known = starter.wordings.map((w) => w.id);
    expect(rule.steps.map((s) => s.wording)).toEqual(known);
    for (const wording of starter.wordings) {
      const compiled = compileWording(wording);
      if (!compiled.ok) throw new Error(JSON.stringify(compiled.problems));
      const sender = { name: 'A. Lind', signature: 'A. Lind', officeHours: '' };
      const about = aboutOf(rule.when);
      const facts = factsOf({ people: [...course.people], items: [...course.items] });
      for (let variant = 0; variant < compiled.value.count; variant++) {
        const message = valueOf(compiled.value.render({ facts, person: 0, sender, about, at: now }, variant));
        expect(message.blanks).toEqual([]);
        expect(message.text).not.toMatch(/\{|undefined|null|default:| {2}/);
        if (wording.purpose === 'toMyself') continue;
        expect(message.text).toMatch(/^P1,\n/);
        // Long enough to be warm, short enough to be read.
        expect(wordCount(message.text)).toBeGreaterThanOrEqual(60);
        expect(wordCount(message.text)).toBeLessThanOrEqual(110);
      }
      if (wording.purpose !== 'toMyself') expect(compiled.value.count).toBeGreaterThan(1);
    }
  });

  test('claims only what its rule has found', () => {
    const rule = built(starter.id);
    for (const wording of starter.wordings) {
      if (wording.purpose !== 'toMyself') expect(unfoundedClaims(wording, rule)).toEqual([]);
    }
  });

  test('has numbers that fit together', () => {
    expect(adviceOn(built(starter.id), course, now).map((a) => a.code)).toEqual([]);
  });
});

test('they are about the items that an instructor would mean on that day', () => {
  const about = (id: string) => conditionSentence(built(id).when, course);
  expect(about('syllabus')).toContain('Syllabus');
  expect(about('syllabus')).toContain('Quiz 2');
  expect(about('low-and-away')).toContain('Quiz 1');
  expect(about('not-submitted')).toContain('Lab 1');
});

test('common practice, no source: the rhythms', () => {
  // Sunday and Tuesday evenings with an end date.
  expect(built('not-submitted').rhythm).toMatchObject({ rrule: 'FREQ=WEEKLY;BYDAY=TU,SU', until: '2026-10-25' });
  // Saturday 10:00 for a discussion that is due on Sunday at 17:00.
  expect(built('forum-closes').rhythm).toMatchObject({ start: '2026-10-03T10:00', rrule: 'FREQ=WEEKLY;BYDAY=SA' });
  expect(built('forum-closes').when).toMatchObject({ measure: 'dueSoon', days: 1 });
  // 9:30 before a class at 10:00, on the day of the class.
  expect(built('before-class').rhythm).toMatchObject({ start: '2026-09-29T09:30', rrule: 'FREQ=WEEKLY;BYDAY=TH' });
  expect(built('before-class').steps[0]!.to).toEqual(['instructor']);
  expect(built('worked-and-low').steps[0]!.deliver).toBe('hold');
});

test('[R7] absence and failing are strong, praise and reminders light', () => {
  const weights = Object.fromEntries(STARTERS.map((s) => [s.id, built(s.id).weight]));
  expect(weights).toMatchObject({ away: 'strong', 'low-and-away': 'strong', 'under-mean': 'strong' });
  expect(weights).toMatchObject({ excellent: 'light', 'welcome-back': 'light', 'forum-closes': 'light' });
  expect(weights['two-missing']).toBe('normal');
});

test('they name an item that is likely graded by now', () => {
  const dayAfter = at('2026-10-12T08:00');
  const result = STARTERS.find((s) => s.id === 'low-and-away')!.build(course, dayAfter);
  expect(result.ok && conditionSentence(result.rule.when, course)).toContain('Quiz 1');
});

test('a text that says more than its rule has found is noticed', () => {
  const said = (text: string) => unfoundedClaims({ ...STARTERS[0]!.wordings[0]!, variants: [], text }, built('away'));
  expect(said('I have not seen you since {{ student.last_visit }}.')).toEqual([]);
  expect(said('You practiced more than most.')).toEqual(['more than most']);
  expect(said('Missing: {{ student.missing_items }}')).toEqual(['student.missing_items']);
  expect(said('{% if student.missing_items %}Missing: {{ student.missing_items }}{% endif %}')).toEqual([]);
});

test('of a course without items, those that are about items say what they need, and all others are built', () => {
  const bare = makeCourse({ ...course, items: [] });
  const results = STARTERS.map((starter) => ({ id: starter.id, result: starter.build(bare, now) }));
  const built = results.flatMap(({ result }) => (result.ok ? [result.rule] : []));
  expect(built.flatMap((rule) => courseProblems(rule, bare))).toEqual([]);
  expect(results.flatMap(({ result }) => (result.ok ? [] : [result.needs])).filter((needs) => needs === '')).toEqual(
    [],
  );
  expect(results.filter(({ result }) => !result.ok).map(({ id }) => id)).toEqual([
    ...['low-and-away', 'syllabus', 'practice', 'not-submitted', 'forum-closes', 'two-missing', 'worked-and-low'],
    'five-discussions',
  ]);
});

test('words for a rule that looks for one thing claim nothing that it does not know', () => {
  const kinds = [
    'daysSinceVisit',
    'visits',
    'missing',
    'submitted',
    'courseGrade',
    'score',
    'posts',
    'absences',
  ] as const;
  expect(kinds.map((measure) => starterFor({ measure }))).toEqual([
    ...['away', 'away', 'two-missing', 'two-missing', 'under-mean', 'under-mean', 'away', 'away'],
  ]);
  expect(starterFor({ measure: 'share', of: 'submit' })).toBe('two-missing');
  for (const id of new Set(kinds.map((measure) => starterFor({ measure }))))
    expect(STARTERS.find((s) => s.id === id)!.wordings.length).toBeGreaterThan(0);
});

test('[M5] a starter that counts visits is offered only where visits are recorded', () => {
  const offered = (presence: PresenceKnown) =>
    STARTERS.filter((s) => s.build(course, now).ok && !starterRuleFor(s, course, now, presence).ok).map((s) => s.id);
  expect(offered('visits')).toEqual([]);
  expect(offered('lastSeen')).toEqual(['less-active', 'welcome-back']);
  expect(offered('nothing')).toEqual(['less-active', 'welcome-back']);
  expect(
    starterRuleFor(
      STARTERS.find((s) => s.id === 'welcome-back')!,
      course,
      now,
      'lastSeen',
    ),
  ).toEqual({ ok: false, needs: 'record of each visit, only of when each student was last seen' });
});
