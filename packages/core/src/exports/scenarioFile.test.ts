/** A whole course goes out and decides the same elsewhere, also with made-up names. */
import { describe, expect, test } from '@jest/globals';
import { makeCourse } from '../course/course.ts';
import type { ScenarioJson } from '../imports/take/draft.ts';
import { replayScenario } from '../scenario/run.ts';
import { at, courseOf, item, person, ruleOf } from '../testing/build.ts';
import { disguised, type WholeCourse } from './scenarioFile.ts';
import { parsedOf, scenarioOf } from '../testing/wholeCourse.ts';

describe('a whole course', () => {
  const people = [
    person('ada', {
      lastName: 'Lind',
      email: 'ada@saltmarsh.example',
      section: '01',
      fields: { Team: 'red', Shoe: 'secret' },
    }),
    person('bela', { lastName: 'Kovács', email: 'bela@saltmarsh.example', section: '02', fields: { Team: 'blue' } }),
    person('cleo', {
      lastName: 'Okoro',
      email: null,
      contacts: [{ kind: 'advisor', name: 'Dr. Vane', email: 'vane@saltmarsh.example' }],
    }),
  ];
  const items = [
    item('q1', {
      title: 'Tide quiz',
      points: 20,
      excused: ['bela'],
      extensions: [{ person: 'ada', dueAt: at('2026-09-30T00:00') }],
      dueAt: at('2026-09-20T00:00'),
      url: 'https://campus.example/q1',
    }),
  ];
  const course = makeCourse({ ...courseOf({ people, items }) });
  const rules = [
    ruleOf({
      note: 'About Ada Lind',
      audience: { roles: ['student'], except: ['bela'] },
      steps: [
        { deliver: 'send', to: ['student', 'contact:advisor', 'address:dean@saltmarsh.example'], wording: 'to-ada' },
      ],
    }),
    ruleOf({
      id: 'team',
      when: {
        all: [
          { measure: 'field', name: 'Team', is: 'equals', value: 'red' },
          { measure: 'missing', is: '>=', value: 1 },
        ],
      },
      repeat: { perTerm: 3 },
    }),
    ruleOf({ id: 'lacks', when: { measure: 'score', item: 'gone', is: '<', value: 5 } }),
  ];
  const days = (n: number) => at('2026-09-01T12:00') + n * 86_400_000;
  const whole: WholeCourse = {
    course,
    rules,
    events: [0, 3, 9, 30].flatMap(
      (d) =>
        [
          { person: 'ada', kind: 'visit', item: null, at: days(d) },
          { person: 'cleo', kind: 'visit', item: null, at: days(d * 2) },
        ] as const,
    ),
    grades: [{ person: 'ada', item: 'q1', criterion: null, points: 7, at: days(12) }],
  };
  const replayed = (json: ScenarioJson) => {
    const scenario = parsedOf(json);
    return replayScenario(scenario, scenario.rules, {}) as { decisions?: unknown };
  };

  test('is a scenario that decides the same; a rule that names what is not there is left out', async () => {
    const json = await scenarioOf(whole);
    const scenario = parsedOf(json);
    expect(scenario.rules.map((r) => r.id)).toEqual(['away', 'team']);
    expect(scenario.course.people).toEqual(people);
    const direct = replayScenario(
      { course, rules: scenario.rules, events: [...(whole.events as never[])], grades: [...(whole.grades as never[])] },
      scenario.rules,
      {},
    );
    expect(replayed(json)).toEqual(direct);
  });

  test('with made-up names it decides the same, and nobody’s name, address, note or text is in it', async () => {
    const json = await scenarioOf(disguised(whole));
    const text = JSON.stringify(json);
    for (const secret of [
      'ada',
      'Ada',
      'Lind',
      'Kov',
      'bela',
      'cleo',
      'Okoro',
      'Vane',
      'saltmarsh',
      'secret',
      'About',
      'campus.example',
    ])
      expect(text).not.toContain(secret);
    expect(text).toContain('"red"');
    const ids = new Map(people.map((p, i) => [json.people[i]!.id, p.id]));
    const back = JSON.stringify(replayed(json), (_, v: unknown) => (typeof v === 'string' ? (ids.get(v) ?? v) : v));
    const plain = (s: string) =>
      JSON.parse(s.replace(/reader\d+@made-up\.example|\w+@saltmarsh\.example/g, 'an address')) as unknown;
    expect(plain(back)).toEqual(plain(JSON.stringify(replayed(await scenarioOf(whole)))));
  });
});
