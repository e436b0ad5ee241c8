/** Random courses and rules for the round trip of sentences ([Y6]): marks in every place, titles alike, quotation marks, long courses. */
import fc from 'fast-check';
import { isLeaf, makeGroup, groupOf, comparatorsFor, type Condition, type Leaf } from '../conditions/condition.ts';
import { callOf } from '../conditions/sentence.ts';
import { makeCourse, type Course } from '../course/course.ts';
import type { ItemKind } from '../course/item.ts';
import { ITEM_KINDS } from '../course/item.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { readColumn } from '../measures/catalogue/field.ts';
import { MEASURE_NAMES, type MeasureCall, type NumberOrMark } from '../measures/values/measure.ts';
import { rangeOf } from '../measures/values/range.ts';
import { callKey } from '../measures/values/callKey.ts';
import { plainRhythm, rruleOf, NTHS } from '../rules/rhythmWords.ts';
import type { RecipientSpec, Rule } from '../rules/rule.ts';
import { WEEKDAYS } from '../time/weekday.ts';
import { dateOf, dayNumberOf } from '../time/calendar.ts';
import { item, NEW_YORK, person, ruleOf } from './build.ts';

/** Names that are hard to read: the grammar's own words, quotation marks, commas, one the beginning of another, numbers. */
const TITLES = [
  ...[
    'Quiz 1',
    'Quiz 1 or 2',
    'Quiz',
    'Quiz 12',
    'quiz 12',
    'Essay, first draft',
    'Tides: currents, and wind',
    'The end',
  ],
  ...[
    'Reading “Dune”',
    'Say "hi"',
    'late',
    'missing items',
    'this week',
    'the course',
    'not past',
    '5 or more',
    'Is it done?',
  ],
  ...[
    '(optional) lab',
    'Lab (late)',
    'Don’t panic',
    'Café 2',
    '2,000 words',
    'Lab 1.5',
    'a',
    'Week 3 discussion',
    '9/14',
    '9:30 AM',
  ],
  ...[
    'and then',
    'students',
    'Over 60% of it',
    'under 5',
    'half',
    '&',
    'Essay 1; Essay 2',
    'A-B test',
    '-5',
    'e@f.example',
  ],
] as const;

const GROUPS = [
  'Labs',
  'Labs this week',
  'Late work',
  'Essays and more',
  'overall',
  'a row',
  'Quizzes',
  'Week 1',
  'Practice',
  'Assignments',
] as const;
const COLUMNS = ['Advisor', 'Labs', 'late', 'Mode of study', 'in', 'GPA'] as const;
const SECTIONS = ['01', '02', 'Evening', 'A and B', 'section'] as const;
const MARKS = ['mastery', 'pass', 'passing', 'and', 'high score'] as const;
const CONTACTS = ['advisor', 'coach', 'coach and aide'] as const;
export const CRITERIA = ['Method', 'Method and style', 'points'] as const;

const date = (from: string, to: string) =>
  fc.integer({ min: dayNumberOf(from), max: dayNumberOf(to) }).map((n) => dateOf(n));

/** A course with a few of these names, of a term or of more than a year. */
export const anyCourse: fc.Arbitrary<Course> = fc
  .record({
    titles: fc.uniqueArray(fc.constantFrom(...TITLES), { minLength: 1, maxLength: 8 }),
    hasAlike: fc.boolean(),
    kinds: fc.array(fc.constantFrom<ItemKind>(...ITEM_KINDS), { minLength: 9, maxLength: 9 }),
    groups: fc.array(fc.constantFrom(...GROUPS), { minLength: 9, maxLength: 9 }),
    marks: fc.uniqueArray(fc.constantFrom(...MARKS), { minLength: 1, maxLength: 3 }),
    columns: fc.uniqueArray(fc.constantFrom(...COLUMNS), { minLength: 1, maxLength: 3 }),
    sections: fc.uniqueArray(fc.constantFrom(...SECTIONS), { minLength: 1, maxLength: 3 }),
    end: fc.constantFrom('2026-12-18', '2027-05-20', '2028-09-30'),
  })
  .map(({ titles, hasAlike, kinds, groups, marks, columns, sections, end }) => {
    const all = hasAlike ? [...titles, titles[0]!] : titles;
    return makeCourse({
      code: 'NAV 120',
      title: 'Coastal Navigation',
      timeZone: NEW_YORK,
      start: '2026-08-31',
      end,
      breaks: [],
      groupWeights: null,
      marks: Object.fromEntries(marks.map((m, i) => [m, 60 + i * 10])),
      settings: { quietHours: null, budget: null },
      people: sections.map((section, i) =>
        person(`p${i}`, {
          firstName: ['Ada', 'And', 'Ben “B”'][i]!,
          lastName: ['Lind', 'Or', 'Sato'][i]!,
          section,
          fields: Object.fromEntries(columns.map((c) => [c, '1'])),
          contacts: CONTACTS.map((kind) => ({ kind, name: kind, email: `${i}@x.example` })),
        }),
      ),
      items: all.map((title, i) => item(`i${i}`, { title, kind: kinds[i]!, group: groups[i]! })),
    });
  });

const window = fc.option(
  fc.oneof(
    fc.constant({ this: 'week' } as const),
    fc.integer({ min: 1, max: 400 }).map((days) => ({ last: { days } })),
    date('2026-01-01', '2029-06-30').map((since) => ({ since })),
  ),
  { nil: undefined },
);

const number = (course: Course, min: number, max: number, isWhole: boolean): fc.Arbitrary<NumberOrMark> =>
  fc.oneof(
    { weight: 5, arbitrary: fc.integer({ min: Math.max(min, -2000), max: Math.min(max, 2000) }) },
    { weight: 2, arbitrary: fc.integer({ min: 0, max: 2 }) },
    ...(isWhole
      ? []
      : [
          {
            weight: 2,
            arbitrary: fc.integer({ min: Math.max(min, -100) * 8, max: Math.min(max, 100) * 8 }).map((n) => n / 8),
          },
        ]),
    { weight: 2, arbitrary: fc.constantFrom(...Object.keys(course.marks)).map((mark) => ({ mark })) },
  );

/** A condition on one measure, with every parameter that it may have. */
function anyLeaf(course: Course): fc.Arbitrary<Leaf> {
  const items = course.items.map((i) => i.id);
  const groups = [...new Set(course.items.map((i) => i.group!))];
  const one = fc.constantFrom(...items);
  const group = fc.constantFrom(...groups);
  const several = fc.oneof(
    fc.constant({}),
    group.map((g) => ({ group: g })),
    fc.uniqueArray(one, { minLength: 1, maxLength: 3 }).map((list) => ({ items: list })),
  );
  return fc.constantFrom(...MEASURE_NAMES).chain((name) => {
    const measure = CATALOGUE[name];
    const has = (key: string) => key in measure.parameters;
    const parts: fc.Arbitrary<Partial<MeasureCall>>[] = [];
    if (has('items')) parts.push(several);
    else if (name === 'gradeVsClass')
      parts.push(
        fc.oneof(
          fc.constant({}),
          one.map((i) => ({ item: i })),
          group.map((g) => ({ group: g })),
        ),
      );
    else if (name === 'completed')
      parts.push(
        fc.oneof(
          fc.constant({}),
          one.map((i) => ({ item: i })),
        ),
      );
    else {
      if (has('item')) parts.push(one.map((i) => ({ item: i })));
      if (has('group')) parts.push(group.map((g) => ({ group: g })));
    }
    if (has('window')) parts.push(window.map((w) => (w ? { window: w } : {})));
    if (name === 'dueSoon') {
      parts.push(
        fc.oneof(
          fc.integer({ min: 1, max: 200 }).map((hours) => ({ hours: hours / 2 })),
          fc.integer({ min: 0, max: 30 }).map((days) => ({ days })),
        ),
      );
    } else if (has('days')) parts.push(fc.integer({ min: 1, max: 60 }).map((days) => ({ days })));
    if (has('than')) parts.push(number(course, 0, 100, false).map((than) => ({ than })));
    if (has('criterion')) parts.push(fc.constantFrom(...CRITERIA).map((criterion) => ({ criterion })));
    if (has('name')) parts.push(fc.constantFrom(...Object.keys(course.people[0]!.fields)).map((n) => ({ name: n })));
    if (has('of')) {
      const acts =
        name === 'streak' ? (['done', 'missed'] as const) : (['open', 'practice', 'submit', 'post'] as const);
      parts.push(fc.constantFrom<NonNullable<MeasureCall['of']>>(...acts).map((of) => ({ of })));
    }
    const range = rangeOf(measure);
    const amount = number(course, range?.min ?? -1000, range?.max ?? 1000, false);
    const text = fc.constantFrom('Okafor', 'online', '5', '-2.5', 'say ”hi” or “no”', 'in the course', 'a, b and c');
    return fc
      .tuple(fc.tuple(...parts), fc.constantFrom(...comparatorsFor(measure)), amount, text, fc.boolean())
      .map(([given, is, n, t, yes]): Leaf => {
        const call = { measure: name, ...Object.assign({}, ...given) } as MeasureCall;
        if (is === 'empty' || is === 'filled') return { ...call, is };
        if (measure.unit === 'yesNo') return { ...call, is, value: yes };
        if (measure.unit !== 'text') return { ...call, is, value: n };
        const takesText = is === 'equals' || is === 'differs' || is === 'contains';
        return { ...call, is, value: takesText && (yes || is === 'contains') ? t : n };
      });
  });
}

/** A condition of any shape. */
export const anyCondition = (course: Course): fc.Arbitrary<Condition> =>
  fc.letrec<{ tree: Condition }>((tie) => ({
    tree: fc.oneof(
      { depthSize: 'small', withCrossShrink: true },
      { weight: 3, arbitrary: anyLeaf(course) },
      {
        weight: 1,
        arbitrary: fc
          .tuple(fc.constantFrom('all', 'any', 'none'), fc.array(tie('tree'), { minLength: 1, maxLength: 3 }))
          .map(([kind, children]) => makeGroup(kind as 'all', children)),
      },
      {
        weight: 1,
        arbitrary: anyLeaf(course)
          .filter((l) => l.is === '>=')
          .map((l) => ({ all: [l, { ...l, is: '<=' as const }] })),
      },
    ),
  })).tree;

const anyRrule = fc.oneof(
  fc.constant('FREQ=DAILY'),
  fc.integer({ min: 2, max: 9 }).map((n) => `FREQ=DAILY;INTERVAL=${n}`),
  fc.integer({ min: 1, max: 9 }).map((n) => rruleOf({ every: 'hour', interval: n })),
  fc
    .tuple(fc.integer({ min: 1, max: 4 }), fc.uniqueArray(fc.constantFrom(...WEEKDAYS), { minLength: 1 }))
    .map(([interval, days]) => rruleOf({ every: 'week', interval, days })),
  fc.integer({ min: 1, max: 31 }).map((day) => rruleOf({ every: 'month', on: { date: day } })),
  fc
    .tuple(fc.constantFrom(...NTHS), fc.constantFrom(...WEEKDAYS))
    .map(([nth, day]) => rruleOf({ every: 'month', on: { nth, day } })),
);

const RECIPIENTS: readonly RecipientSpec[] = [
  'student',
  'instructor',
  ...CONTACTS.map((c): RecipientSpec => `contact:${c}`),
  'address:dean@saltmarsh.example',
];

/** A rule of a course, in the parts that its sentence says. */
export const anyRule = (course: Course): fc.Arbitrary<Rule> =>
  fc
    .record({
      when: anyCondition(course),
      roles: fc.uniqueArray(fc.constantFrom('student', 'instructor', 'assistant', 'observer'), { minLength: 1 }),
      sections: fc.uniqueArray(fc.constantFrom(...course.people.map((p) => p.section!)), { maxLength: 2 }),
      except: fc.uniqueArray(fc.constantFrom(...course.people.map((p) => p.id)), { maxLength: 2 }),
      rrule: anyRrule,
      start: date('2026-07-01', '2028-12-31'),
      minutes: fc.integer({ min: 0, max: 24 * 60 - 1 }),
      until: fc.option(date('2026-07-01', '2029-01-31'), { nil: null }),
      isOneDate: fc.boolean(),
      perSpell: fc.option(fc.integer({ min: 1, max: 1000 })),
      perTerm: fc.option(fc.integer({ min: 1, max: 1000 })),
      gap: fc.option(
        fc.record({ days: fc.integer({ min: 0, max: 60 }), hours: fc.integer({ min: 0, max: 90 }).map((n) => n / 4) }),
      ),
      untilReply: fc.boolean(),
      weight: fc.constantFrom('light', 'normal', 'strong'),
      // Away from the hour that occurs twice.
      from: fc.option(fc.tuple(date('2026-07-01', '2029-01-31'), fc.integer({ min: 4 * 60, max: 23 * 60 }))),
      steps: fc.array(fc.uniqueArray(fc.constantFrom(...RECIPIENTS), { minLength: 1, maxLength: 4 }), {
        minLength: 1,
        maxLength: 3,
      }),
    })
    .map((r) => {
      const clock = `${String(Math.floor(r.minutes / 60)).padStart(2, '0')}:${String(r.minutes % 60).padStart(2, '0')}`;
      const spellsFrom =
        r.from &&
        new Date(
          course.calendar.zone.toInstant(Date.parse(`${r.from[0]}T00:00:00Z`) + r.from[1] * 60_000),
        ).toISOString();
      return ruleOf({
        when: r.when,
        audience: { roles: r.roles, sections: r.sections, except: r.except },
        rhythm: { start: `${r.start}T${clock}`, rrule: r.rrule, until: r.isOneDate ? r.start : r.until },
        repeat: { perSpell: r.perSpell, perTerm: r.perTerm, gap: r.gap, untilReply: r.untilReply },
        weight: r.weight,
        spellsFrom,
        steps: r.steps.map((to) => ({ deliver: 'send', to, wording: 'gentle' })),
      });
    });

/** A condition in a form in which two that mean the same are equal ([Y6]). */
export function plainCondition(condition: Condition): Condition {
  if (isLeaf(condition)) return plainLeaf(condition);
  const { kind, children } = groupOf(condition);
  const plain = children.map(plainCondition);
  if (plain.length === 1 && kind !== 'none') return plain[0]!;
  if (kind === 'all') {
    for (let i = 0; i + 1 < plain.length; i++) {
      const [a, b] = [plain[i]!, plain[i + 1]!];
      if (!isLeaf(a) || !isLeaf(b) || callKey(callOf(a)) !== callKey(callOf(b))) continue;
      if (a.is === '<=' && b.is === '>=') [plain[i], plain[i + 1]] = [b, a];
      if ((a.is === '<=' && b.is === '>=') || (a.is === '>=' && b.is === '<=')) i++;
    }
  }
  return makeGroup(kind, plain);
}

function plainLeaf(leaf: Leaf): Leaf {
  const { unit } = CATALOGUE[leaf.measure];
  if (unit === 'count' && leaf.is === 'equals' && leaf.value === 0) return { ...leaf, is: '<', value: 1 };
  if (unit === 'yesNo' && leaf.is === 'differs') return { ...leaf, is: 'equals', value: leaf.value === false };
  if (unit === 'text' && typeof leaf.value === 'string')
    return { ...leaf, value: readColumn(leaf.value) ?? leaf.value };
  return leaf;
}

/** What of a rule its sentence says, in a form in which two that mean the same are equal. */
export function plainRule(
  rule: Pick<Rule, 'when' | 'audience' | 'rhythm' | 'repeat' | 'weight' | 'spellsFrom' | 'steps'>,
  course: Course,
) {
  const { perSpell, perTerm, gap, untilReply } = rule.repeat;
  const until = rule.rhythm.until ?? course.end;
  const read = plainRhythm({ ...rule.rhythm, until })!;
  const isDaily = read.every === 'week' && read.interval === 1 && read.days.length === 7;
  const plain = isDaily ? plainRhythm({ ...rule.rhythm, until, rrule: 'FREQ=DAILY' }) : read;
  const [only, ...more] = rule.steps;
  return {
    when: plainCondition(rule.when),
    audience: rule.audience,
    rhythm: { start: rule.rhythm.start, until, plain },
    repeat: { perSpell, perTerm, gap: gap && gap.days + gap.hours > 0 ? gap : null, untilReply: untilReply === true },
    weight: rule.weight,
    spellsFrom: rule.spellsFrom,
    steps: rule.steps.length,
    to: more.length > 0 ? null : [...only!.to].sort(),
  };
}
