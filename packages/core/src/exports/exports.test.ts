/** What goes out: tables that come back as they were, a mail folder, a calendar, a whole course. Read by libraries that did not write it. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import ICAL from 'ical.js';
import Papa from 'papaparse';
import { History } from '../activity/history.ts';
import { makeCourse } from '../course/course.ts';
import type { Item } from '../course/item.ts';
import type { Person } from '../course/person.ts';
import { draftOf, importFile } from '../imports/take/importFiles.ts';
import type { ScenarioJson } from '../imports/take/draft.ts';
import { Gradebook } from '../lookout/gradebook.ts';
import { HistoryFacts } from '../measures/facts/facts.ts';
import { parseScenario } from '../scenario/format.ts';
import { replayScenario } from '../scenario/run.ts';
import { at, courseOf, item, NEW_YORK, person, ruleOf } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import { calendarText, folded } from './calendar.ts';
import { itemsTable, peopleTable } from './courseTables.ts';
import { csvPieces, csvText } from './csvFile.ts';
import { gradebookTable } from './gradebookTable.ts';
import { lookoutTable } from './lookoutTable.ts';
import { fromLine, mboxEntry, quotedMessage, unquotedMessage } from './mbox.ts';
import { parseRulesFile, rulesFileOf } from './rulesFile.ts';
import { disguised, scenarioPieces, type WholeCourse } from './scenarioFile.ts';
import { fileNameOf, headingsOf, number, text, wallText, type ExportTable } from './table.ts';

const table = (
  rows: ExportTable['rows'],
  columns: ExportTable['columns'] = [text('Name'), text('Note')],
): ExportTable => ({
  ...{ name: 'T', zone: NEW_YORK, columns, rows },
});
const read = (csv: string) => Papa.parse<string[]>(csv).data;

describe('a table as CSV', () => {
  test('RFC 4180: records end with CRLF, quotation marks are doubled; numbers are numbers', () => {
    const rows = [
      ['Okoro, "Imani"', 'a\nb'],
      [null, 'x'],
    ];
    expect(csvText(table(rows))).toBe('Name,Note\r\n"Okoro, ""Imani""","a\nb"\r\n,x\r\n');
    expect([...csvPieces(table([[1.5, -2]], [number('A'), number('B')]))].at(-1)).toBe('1.5,-2\r\n');
    expect(csvText(table([]), { bom: true }).charCodeAt(0)).toBe(0xfeff);
  });

  test('times are local ISO, their zone stands in the heading', () => {
    expect(headingsOf({ columns: [{ name: 'Due at', kind: 'dateTime' }], zone: NEW_YORK })).toEqual([
      'Due at (America/New_York)',
    ]);
    expect(wallText(at('2026-10-26T08:02'), NEW_YORK)).toBe('2026-10-26T08:02:00');
    expect(csvText(table([[at('2026-12-01T23:59')]], [{ name: 'D', kind: 'dateTime' }]))).toContain(
      '2026-12-01T23:59:00',
    );
  });

  // What a spreadsheet runs when a cell begins so: OWASP, CSV injection.
  test.each([
    ['=1+1', "'=1+1"],
    ['+x', "'+x"],
    ['-x', "'-x"],
    ['@x', "'@x"],
    ['\tx', "'\tx"],
    ['\rx', "'\rx"],
    ['-5', '-5'],
    ['|x', '|x'],
    ["O'Neil", "O'Neil"],
  ])('a text that would run gets one sign before it: %j', (cell, written) => {
    expect(read(csvText(table([[cell, 'x']])))[1]![0]).toBe(written);
  });

  test('files are called by names that every system takes', () => {
    expect(fileNameOf('a/b: "c"?')).toBe('a-b- -c--');
    expect(fileNameOf(' ')).toBe('table');
  });
});

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
        ...{
          firstName: `Given${i}`,
          lastName: p.last,
          email: `s${i}@saltmarsh.example`,
          section: p.section,
          active: p.active,
        },
        ...{ enrolledAt: p.at, fields: p.team === null ? {} : { Team: p.team } },
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
        ...{ title: `${i.title} ${n}`, kind: i.kind as Item['kind'], points: i.points, dueAt: i.due, group: i.group },
        topics: n % 2 === 0 ? ['tides', 'charts'] : [],
        ...(n === 0 ? { url: 'https://campus.example/x' } : {}),
      }),
    ),
  );

const scenarioOf = async (whole: WholeCourse): Promise<ScenarioJson> => {
  let out = '';
  for await (const piece of scenarioPieces(whole)) out += piece;
  return JSON.parse(out) as ScenarioJson;
};
const bare = (course: WholeCourse['course']) => scenarioOf({ course, rules: [], events: [], grades: [] });
const bring = (csv: string, to: ScenarioJson, kind?: 'items' | 'roster' | 'gradebook') => {
  const draft = draftOf(to);
  const report = importFile({ name: 't.csv', content: { bytes: new TextEncoder().encode(csv) } }, draft, {
    ...{ asOf: at('2026-11-01T00:00'), add: { people: false, items: false } },
    ...(kind ? { kind } : {}),
  });
  const parsed = parseScenario(draft.toScenario());
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return { report, scenario: parsed.value };
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

function parsedOf(json: ScenarioJson) {
  const parsed = parseScenario(json);
  if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
  return parsed.value;
}

test('the table of students is written as it is shown: its rows, its order, unknowns empty, columns of one title told apart', () => {
  const course = courseOf({ people: [person('p1'), person('p2')] });
  const column = { kind: 'log', log: 'lastNudge' } as const;
  const values = [
    [5, null],
    [true, 12.5],
  ];
  const out = lookoutTable(course, {
    students: ['p2', 'p1'],
    columns: [column, column],
    value: (c, place) => values[c]![place]!,
    rules: new Map(),
  });
  const [head, first, second] = read(csvText(out));
  expect(head!.slice(5)).toEqual(['Last nudge, days ago', 'Last nudge, days ago (2)']);
  expect(first).toEqual(['p2', ...first!.slice(1, 5), '5', 'yes']);
  expect(second!.slice(5)).toEqual(['', '12.5']);
});

describe('a mail folder (RFC 4155, mboxrd)', () => {
  test('the line before a message has its sender and the hand-over in UTC', () => {
    // As asctime writes it, a day of one digit behind a blank.
    expect(fromLine('ada@saltmarsh.example', Date.UTC(2026, 9, 5, 7, 4, 9))).toBe(
      'From ada@saltmarsh.example Mon Oct  5 07:04:09 2026',
    );
    expect(fromLine('', 0)).toBe('From MAILER-DAEMON Thu Jan  1 00:00:00 1970');
  });

  test('quoting can be undone, whatever a message says', () => {
    const line = fc.constantFrom('From here', '>From there', '>>From', 'from', ' From', 'x', '', '>From ');
    fc.assert(
      fc.property(fc.array(line, { maxLength: 8 }), (lines) => {
        const message = lines.join('\n');
        expect(unquotedMessage(quotedMessage(message))).toBe(message);
        expect(/^From /m.test(quotedMessage(message))).toBe(false);
      }),
      runs(254, 200),
    );
  });

  test('entries stand apart by an empty line', () => {
    const entry = mboxEntry('Subject: x\r\n\r\nFrom now on', 'a@b.example', 0);
    expect(entry).toBe('From a@b.example Thu Jan  1 00:00:00 1970\nSubject: x\n\n>From now on\n\n');
  });
});

describe('a calendar (RFC 5545)', () => {
  const stamp = Date.UTC(2026, 9, 1);
  const events = [
    {
      uid: 'due-q1@c1',
      sequence: 2,
      stamp,
      summary: 'Tides; quiz, “1”\nlate',
      when: { at: Date.UTC(2026, 9, 5, 3, 59) },
    },
    {
      uid: 'break-1@c1',
      sequence: 0,
      stamp,
      summary: 'Harvest break',
      when: { from: '2026-11-23', until: '2026-11-29' },
    },
  ];

  test('is read by another library as it was meant, whatever the zone of the server', () => {
    const [due, rest] = new ICAL.Component(ICAL.parse(calendarText('NAV 120', events)) as never)
      .getAllSubcomponents('vevent')
      .map((e) => new ICAL.Event(e));
    expect(due!.summary).toBe('Tides; quiz, “1”\nlate');
    expect(due!.startDate.toJSDate().getTime()).toBe(Date.UTC(2026, 9, 5, 3, 59));
    expect([due!.uid, due!.sequence]).toEqual(['due-q1@c1', 2]);
    expect(due!.duration.toSeconds()).toBe(0);
    expect([rest!.startDate.isDate, rest!.startDate.toString(), rest!.endDate.toString()]).toEqual([
      true,
      '2026-11-23',
      '2026-11-30',
    ]);
  });

  test('[§3.1] no line has more than 75 octets, none cuts a character, and unfolding gives the line back', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'grapheme', maxLength: 300 }).filter((s) => !/[\r\n]/.test(s)),
        (line) => {
          const lines = folded(line).split('\r\n');
          for (const one of lines) expect(Buffer.byteLength(one)).toBeLessThanOrEqual(75);
          expect(lines.map((l, i) => (i === 0 ? l : l.slice(1))).join('')).toBe(line);
          expect(lines.join('').includes('\uFFFD')).toBe(line.includes('\uFFFD'));
        },
      ),
      runs(255, 200),
    );
  });

  test('any text is read again as it was', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom('a', ',', ';', '\\', '\n', 'é', ':', '"'), maxLength: 90 }),
        (summary) => {
          const text = calendarText('x', [{ ...events[0]!, summary: `a${summary}a` }]);
          const event = new ICAL.Component(ICAL.parse(text) as never).getFirstSubcomponent('vevent')!;
          expect(new ICAL.Event(event).summary).toBe(`a${summary}a`);
        },
      ),
      runs(256, 100),
    );
  });
});

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
    ...{ course, rules },
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

describe('rules and wordings as a file', () => {
  const wording = { id: 'gentle', name: 'Gentle', purpose: 'support', subject: 'Hi', text: 'Hello' } as const;
  const course = courseOf({ people: [person('p1')], items: [item('q1', { points: 20, excused: ['p1'] })] });
  const rules = [ruleOf({ audience: { roles: ['student'], except: ['p1'] } })];

  test('is read as what was decided, with nobody in it', () => {
    const json: unknown = JSON.parse(JSON.stringify(rulesFileOf({ course, rules, wordings: [wording], files: [] })));
    expect(JSON.stringify(json)).not.toContain('p1');
    const parsed = parseRulesFile(json);
    if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
    expect(parsed.value.rules).toEqual([{ ...rules[0], audience: { ...rules[0]!.audience, except: [] } }]);
    expect(parsed.value.course).toMatchObject({ code: 'NAV 120', people: [], marks: { mastery: 80 } });
    expect(parsed.value.course.items[0]).toMatchObject({ id: 'q1', excused: [] });
    expect(parsed.value.wordings).toMatchObject([wording]);
  });

  test('says everything that does not fit, at its path', () => {
    const json = { ...rulesFileOf({ course, rules: [...rules, ...rules], wordings: [], files: [] }), more: 1 };
    const problems = (value: unknown) => {
      const parsed = parseRulesFile(value);
      return parsed.ok ? [] : parsed.problems.map((p) => [p.path, p.code]);
    };
    expect(problems({ format: 'other' }).map(([path]) => path)).toContain('format');
    expect(problems(json)).toContainEqual(['more', expect.any(String)]);
    const { more: _more, ...plain } = JSON.parse(JSON.stringify(json)) as Record<string, unknown>;
    expect(problems(plain)).toEqual([
      ['rules[1].id', 'sameId'],
      ['rules[0].steps[0].wording', 'notInFile'],
      ['rules[1].steps[0].wording', 'notInFile'],
    ]);
    expect(problems(null).length).toBeGreaterThan(0);
  });
});
