import { readdirSync, readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { parseInstant } from '../time/instant.ts';
import { parseScenario, type Scenario } from './format.ts';
import { scenarioJsonSchema } from './jsonSchema.ts';
import { chosenRules, rehearseScenario, replayScenario, type WrittenDecision } from './run.ts';

const folder = new URL('../../../../examples/', import.meta.url);
const read = (file: string): unknown => JSON.parse(readFileSync(new URL(file, folder), 'utf8'));
const example = (name: string): Scenario => {
  const parsed = parseScenario(read(`${name}.json`));
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
};
const rulesOf = (s: Scenario) => chosenRules(s, []) as Exclude<ReturnType<typeof chosenRules>, { unknown: string }>;
const line = (d: WrittenDecision) =>
  `${d.round} ${d.rule} ${d.student} ${d.outcome}${d.reason ? ` (${d.reason})` : ''} step ${d.step} in the spell from ${d.spellStart}`;

const names = readdirSync(folder)
  .filter((f) => f.endsWith('.expected.json'))
  .map((f) => f.replace('.expected.json', ''));

describe('[R2, R3, R4, R6, R7, R8, R9, R10] the examples give the decisions that were worked out by hand', () => {
  test('there are at least a dozen', () => expect(names.length).toBeGreaterThanOrEqual(12));
  test.each(names)('%s', (name) => {
    const scenario = example(name);
    expect(replayScenario(scenario, rulesOf(scenario)).decisions.map(line)).toEqual(read(`${name}.expected.json`));
  });
});

describe('a decision in the file', () => {
  test('has the instants in the course’s zone, the addresses, and the evidence with its parameters', () => {
    const scenario = example('under-the-class-mean');
    const [decision] = replayScenario(scenario, rulesOf(scenario)).decisions;
    expect(decision).toEqual({
      rule: 'under',
      student: 'p3',
      round: '2026-09-16T09:30:00-04:00',
      outcome: 'sent',
      reason: null,
      step: 0,
      sendAt: '2026-09-16T09:30:00-04:00',
      spellStart: '2026-09-16T00:00:00-04:00',
      to: ['lena@saltmarsh.example'],
      evidence: [{ measure: 'gradeVsClass', item: 'q1', value: -30, is: '<=', threshold: -10, verdict: true }],
    });
  });

  test('keeps its addresses when held or withdrawn, and has none when withheld', () => {
    const decisionsOf = (name: string) => replayScenario(example(name), rulesOf(example(name))).decisions;
    expect(decisionsOf('the-mastery-mark')[0]).toMatchObject({
      outcome: 'held',
      sendAt: null,
      to: ['imani@saltmarsh.example', 'lund@saltmarsh.example'],
      evidence: [{ threshold: 80, mark: 'mastery' }],
    });
    expect(decisionsOf('quiet-hours-and-a-return')[0]).toMatchObject({
      sendAt: '2026-09-07T07:00:00-04:00',
      to: ['imani@saltmarsh.example'],
    });
    expect(decisionsOf('once-a-spell')[1]).toMatchObject({ outcome: 'withheld', sendAt: null, to: [] });
  });
});

test('[R10] a replay is bounded by its instants, both included, and begins with an empty log', () => {
  const scenario = example('once-a-spell');
  const span = { from: parseInstant('2026-09-08T09:30:00-04:00'), until: parseInstant('2026-09-09T09:30:00-04:00') };
  expect(
    replayScenario(scenario, rulesOf(scenario), span).decisions.map((d) => [d.round.slice(5, 10), d.outcome]),
  ).toEqual([
    ['09-08', 'sent'],
    ['09-09', 'withheld'],
  ]);
});

test('[R10] a rehearsal is one round with an empty log and no second look', () => {
  const scenario = example('quiet-hours-and-a-return');
  const file = rehearseScenario(scenario, rulesOf(scenario), parseInstant('2026-09-06T23:00:00-04:00'));
  expect(file.decisions).toMatchObject([{ outcome: 'sent', sendAt: '2026-09-07T07:00:00-04:00' }]);
});

test('rules that are named are replayed though they are off; others of the file are not', () => {
  const scenario = example('two-rules-one-budget');
  const off = { ...scenario, rules: scenario.rules.map((r) => ({ ...r, status: 'draft' as const })) };
  expect(chosenRules(off, [])).toEqual([]);
  expect(chosenRules(off, ['work'])).toMatchObject([{ id: 'work', status: 'on' }]);
  expect(chosenRules(off, ['work', 'nope'])).toEqual({ unknown: 'nope' });
});

describe('a file that does not fit', () => {
  /** The paths of the problems after values were put at paths of a file that fits. */
  const problems = (changes: Readonly<Record<string, unknown>>): string[] => {
    const json = structuredClone(read('two-rules-one-budget.json'));
    for (const [path, value] of Object.entries(changes)) {
      const parts = path.split(/[.[\]]+/).filter(Boolean);
      const last = parts.pop()!;
      const holder = parts.reduce<unknown>((at, part) => (at as Record<string, unknown>)[part], json);
      (holder as Record<string, unknown>)[last] = value;
    }
    const parsed = parseScenario(json);
    return parsed.ok ? [] : parsed.problems.map((p) => p.path);
  };
  const person = { id: 'p1', firstName: 'I', lastName: 'O', role: 'student', enrolledAt: '2026-08-31T00:00:00-04:00' };
  const SEP_1 = '2026-09-01T14:03:00-04:00';

  test('says everything that is wrong at once, each at its path', () => {
    const wrong = { all: [{ measure: 'daysSinceVisit', is: 'roughly', value: 5 }, { measure: 'mood' }, { any: [] }] };
    const paths = problems({
      format: 'zest-bell/scenario@2',
      extra: 1,
      'course.timeZone': 'Mars/Base',
      'course.end': '2026-12-32',
      'people[0].role': 'pilot',
      'people[0].nick': 'Immy',
      'items[0].dueAt': '2026-09-04',
      'rules[0].when': wrong,
      'rules[1].rhythm.rrule': 'FREQ=DAILY;COUNT=2',
      'rules[1].steps': [],
    });
    expect(paths.sort()).toEqual(
      [
        'format',
        'extra',
        'course.timeZone',
        'course.end',
        'people[0].role',
        'people[0].nick',
        'items[0].dueAt',
        'rules[0].when.all[0].is',
        'rules[0].when.all[1].measure',
        'rules[0].when.all[2].any',
        'rules[1].rhythm.rrule',
        'rules[1].steps',
      ].sort(),
    );
  });

  test('names people, items, marks and groups that are not there', () => {
    const paths = problems({
      events: [
        { person: 'p9', kind: 'visit', at: SEP_1 },
        { person: 'p1', kind: 'open', item: 'x', at: SEP_1 },
      ],
      grades: [{ person: 'p1', item: 'y', points: 1, at: SEP_1 }],
      'items[0].excused': ['p7'],
      'items[0].extensions': [{ person: 'p8', dueAt: SEP_1 }],
      'rules[0].when': { measure: 'score', item: 'z', is: '<', value: { mark: 'gold' } },
      'rules[1].when': { measure: 'groupGrade', group: 'Nowhere', is: '<', value: 1 },
    });
    expect(paths).toEqual([
      'items[0].excused[0]',
      'items[0].extensions[0].person',
      'events[0].person',
      'events[1].item',
      'grades[0].item',
      'rules[0].when.item',
      'rules[0].when.value.mark',
      'rules[1].when.group',
    ]);
  });

  test('an event of a kind that needs an item, an extension for nobody, ids twice, steps that fall', () => {
    expect(problems({ events: [{ person: 'p1', kind: 'submit', at: SEP_1 }] })).toEqual(['events[0].item']);
    expect(problems({ 'items[0].extensions': [{ dueAt: SEP_1 }] })).toEqual(['items[0].extensions[0]']);
    expect(problems({ people: [person, person] })).toEqual(['people[1].id']);
    const step = (days: number) => ({ after: { days }, deliver: 'send', to: ['student'], wording: 'w' });
    expect(problems({ 'rules[0].steps': [step(5), step(2)] })).toEqual(['rules[0].steps[1].after']);
  });

  test('is not even an object', () => {
    expect(parseScenario(null)).toMatchObject({ ok: false, problems: [{ path: '' }] });
    expect(parseScenario([])).toMatchObject({ ok: false });
  });
});

test('the published JSON Schema is the one that the schemas give', () => {
  const published: unknown = JSON.parse(readFileSync(new URL('../docs/scenario.schema.json', folder), 'utf8'));
  expect(JSON.parse(JSON.stringify(scenarioJsonSchema()))).toEqual(published);
});
