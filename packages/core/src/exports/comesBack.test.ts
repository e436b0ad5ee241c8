/** Tables come back through the reading of files as they went out: people, items, grades. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { History } from '../activity/history.ts';
import { makeCourse } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { Person } from '../course/person.ts';
import { draftOf, importFile } from '../imports/take/importFiles.ts';
import { courseDraft } from '../imports/take/courseDraft.ts';
import type { ScenarioJson } from '../imports/take/draft.ts';
import { knownFrom } from '../imports/take/facts.ts';
import { Gradebook } from '../lookout/gradebook.ts';
import { HistoryFacts } from '../measures/facts/facts.ts';
import { at, courseOf, item, person } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import { itemsTable, peopleTable } from './courseTables.ts';
import { csvText } from './csvFile.ts';
import { gradebookTable } from './gradebookTable.ts';
import { type WholeCourse } from './scenarioFile.ts';
import { parsedOf, scenarioOf } from '../testing/wholeCourse.ts';

/** Words that spreadsheets, or readers of files, might take for something else. */
const word = fc.constantFrom(
  'Lind',
  'O’Neil',
  '=sum',
  '@home',
  '-dash',
  '+plus',
  'a,b',
  'a"b',
  'Ω mega',
  "D'Arcy",
  'x;y',
);
const when = fc
  .integer({ min: at('2026-08-31T00:00') / 1000, max: at('2026-10-30T00:00') / 1000 })
  .map((s) => s * 1000);
const peopleOf = fc
  .array(
    fc.record({
      last: word,
      section: fc.option(fc.constantFrom('01', '=02')),
      team: fc.option(fc.constantFrom('red', '+blue')),
      at: when,
      active: fc.boolean(),
    }),
    { minLength: 1, maxLength: 6 },
  )
  .map((all) =>
    all.map((p, i): Person =>
      person(`s${i}`, {
        firstName: `Given${i}`,
        lastName: p.last,
        email: `s${i}@saltmarsh.example`,
        section: p.section,
        active: p.active,
        enrolledAt: p.at,
        fields: p.team === null ? {} : { Team: p.team },
        contacts: i % 2 === 0 ? [{ kind: 'advisor', name: `=Advisor ${i}`, email: `adv${i}@saltmarsh.example` }] : [],
      }),
    ),
  );
const itemsOf = fc
  .array(
    fc.record({
      title: word,
      kind: fc.constantFrom('quiz', 'assignment', 'page'),
      points: fc.option(fc.integer({ min: 1, max: 99 })),
      due: fc.option(when),
      group: fc.option(word),
    }),
    { minLength: 1, maxLength: 5 },
  )
  .map((all) =>
    all.map((i, n): Item =>
      item(`i${n}`, {
        title: `${i.title} ${n}`,
        kind: i.kind as Item['kind'],
        points: i.points,
        dueAt: i.due,
        group: i.group,
        topics: n % 2 === 0 ? ['tides', 'charts'] : [],
        ...(n === 0 ? { url: 'https://campus.example/x' } : {}),
      }),
    ),
  );

const bare = (course: WholeCourse['course']) => scenarioOf({ course, rules: [], events: [], grades: [] });
const bring = (csv: string, to: ScenarioJson, kind?: 'items' | 'roster' | 'gradebook') => {
  const draft = draftOf(to);
  const report = importFile({ name: 't.csv', content: { bytes: new TextEncoder().encode(csv) } }, draft, {
    asOf: at('2026-11-01T00:00'),
    add: { people: false, items: false },
    ...(kind ? { kind } : {}),
  });
  return { report, scenario: parsedOf(draft.toScenario()) };
};

describe('what goes out comes back', () => {
  test('people and items of a table are the same again in an empty course, and change nothing in their own', async () => {
    await fc.assert(
      fc.asyncProperty(peopleOf, itemsOf, async (people, items) => {
        const course = makeCourse({ ...courseOf(), people, items });
        const own = await bare(course);
        const empty = { ...own, people: [], items: [] };
        const [out, list] = [csvText(peopleTable(course, people)), csvText(itemsTable(course, items))];
        expect(bring(out, empty, 'roster').scenario.course.people).toEqual(people);
        expect(bring(list, empty, 'items').scenario.course.items).toEqual(items);
        for (const [csv, kind] of [
          [out, 'roster'],
          [list, 'items'],
        ] as const) {
          const again = bring(csv, own, kind);
          expect(again.report).toMatchObject({ new: 0, changed: 0, refused: [] });
          // As the course itself reads it: its times are stored without their offset.
          const draft = courseDraft(course, knownFrom([], []), Infinity);
          const options = { asOf: at('2026-11-01T00:00'), kind, add: { people: false, items: false } };
          const file = { name: 't.csv', content: { bytes: new TextEncoder().encode(csv) } };
          expect(importFile(file, draft, options)).toMatchObject({ new: 0, changed: 0, refused: [] });
          // Known for what it is without being told, and every row is the same ([F25]).
          expect(bring(csv, own).report).toMatchObject({ kind, new: 0, changed: 0, refused: [], doubts: [] });
          expect(again.report.same).toBe(again.report.read);
          const { people: was, items: had } = parsedOf(own).course;
          expect([again.scenario.course.people, again.scenario.course.items]).toEqual([was, had]);
        }
      }),
      runs(252, 40),
    );
  });

  test('a gradebook changes nothing in its own course, and brings its points into one without grades', async () => {
    await fc.assert(
      fc.asyncProperty(
        peopleOf,
        itemsOf,
        fc.array(fc.nat(99), { minLength: 30, maxLength: 30 }),
        async (people, items, points) => {
          const students = people.map((p) => ({ ...p, active: true, enrolledAt: at('2026-08-31T00:00') }));
          const worth = items.map((i) => ({ ...i, points: i.points ?? 10 }));
          const course = makeCourse({ ...courseOf(), people: students, items: worth });
          const grades = students.flatMap((p, r) =>
            worth.flatMap((i, c) => {
              const got = points[(r * 5 + c) % 30]!;
              return got > 60
                ? []
                : [
                    {
                      person: p.id,
                      item: i.id,
                      criterion: null,
                      points: Math.round(got * i.points) / 100,
                      at: at('2026-09-20T10:00'),
                    },
                  ];
            }),
          );
          const history = new History(course);
          for (const grade of grades) history.addGrade(grade);
          const facts = new HistoryFacts(course, history);
          const now = at('2026-10-01T00:00');
          const book = Gradebook.of(course, facts.students(), now);
          const csv = csvText(
            gradebookTable(
              course,
              book,
              students.map((_, i) => i),
              worth.map((_, i) => i),
            ),
          );
          const own = await scenarioOf({ course, rules: [], events: [], grades });
          const again = bring(csv, own);
          expect(again.report).toMatchObject({ new: 0, changed: 0, refused: [] });
          const empty = bring(csv, await bare(course));
          expect(empty.report.refused).toEqual([]);
          const brought = empty.scenario.grades;
          const plain = (all: readonly { person: string; item: string; points: number }[]) =>
            all.map((g) => [g.person, g.item, g.points]).sort();
          expect(plain(brought)).toEqual(plain(grades));
        },
      ),
      runs(253, 25),
    );
  });
});

describe('[F25] a send log', () => {
  const LOG = `When (America/New_York),Student ID,Student,Rule,Step,State,Why,Subject,Messages,What came back,Check (America/New_York)
2026-09-14 09:30,p1,Imani Lind,Away,1,sent,,A quiet week,1,replied,2026-09-14 09:30
2026-09-14 09:30,p9,Nobody Known,Away,1,held,asked first,A quiet week,1,,2026-09-14 09:30
`;
  const course = makeCourse({ ...courseOf(), people: [person('p1')] });

  test.each([
    ['as it is exported', LOG],
    ['as it was exported by earlier versions', LOG.replace(',Check (', ',Round (')],
    ['with the columns that later versions add', LOG.replaceAll(/$/gm, ',x').replace(/,x$/, '')],
  ])('is known by its headers, and nothing of it is taken or refused, %s', async (_, csv) => {
    const { report, scenario } = bring(csv, await bare(course));
    expect(report).toMatchObject({ kind: 'columns', read: 2, leftOut: 2, new: 0, changed: 0, same: 0, refused: [] });
    expect(scenario.course.people).toEqual(parsedOf(await bare(course)).course.people);
  });
});
