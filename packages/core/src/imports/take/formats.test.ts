import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import { at } from '../../testing/build.ts';
import type { ScenarioJson } from './draft.ts';
import { draftOf, importFile, importFileInParts } from './importFiles.ts';
import type { ImportOptions } from './report.ts';
import { mailboxSum } from './xapi.ts';
import type { ArchiveParts } from '../read/workbook.ts';

const folder = new URL('../../../../../examples/import/', import.meta.url);
const course = JSON.parse(readFileSync(new URL('course.json', folder), 'utf8')) as ScenarioJson;
const asOf = at('2026-10-26T08:00');
const bytes = (text: string) => new TextEncoder().encode(text);

function bring(
  name: string,
  content: string | Record<string, string>,
  options: Partial<ImportOptions> = {},
  base = course,
) {
  const draft = draftOf(base);
  const parts: ArchiveParts | null =
    typeof content === 'string' ? null : new Map(Object.entries(content).map(([n, text]) => [n, bytes(text)]));
  const file = { name, content: parts ? { parts } : { bytes: bytes(content as string) } };
  const report = importFile(file, draft, { asOf, ...options });
  return { report, json: draft.toScenario() };
}
const counts = (r: { new: number; changed: number; same: number; refused: readonly unknown[] }) => [
  r.new,
  r.changed,
  r.same,
  r.refused.length,
];

describe('a calendar', () => {
  const calendar = (...events: string[]) =>
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//saltmarsh.example//EN\r\n${events.map((e) => `BEGIN:VEVENT\r\nUID:${e.length}@saltmarsh.example\r\nDTSTAMP:20260801T000000Z\r\n${e}\r\nEND:VEVENT\r\n`).join('')}END:VCALENDAR\r\n`;

  test('has breaks, whose end lies outside them, and due dates of items by their titles', () => {
    // RFC 5545, 3.6.1: the end of an event of whole days is not part of it.
    const { report, json } = bring(
      'term.ics',
      calendar(
        'SUMMARY:Harvest break\r\nDTSTART;VALUE=DATE:20261123\r\nDTEND;VALUE=DATE:20261130',
        'SUMMARY:Tide tables quiz is due\r\nDTSTART;TZID=America/New_York:20260914T170000',
        'SUMMARY:Boat show\r\nDTSTART:20260915T120000Z',
        'SUMMARY:Tide tables quiz\r\nDTSTART:20260915T120000Z\r\nRRULE:FREQ=WEEKLY',
      ),
    );
    expect(report.kind).toBe('calendar');
    expect(counts(report)).toEqual([1, 1, 0, 2]);
    expect(json.course.breaks).toEqual([{ from: '2026-11-23', to: '2026-11-29', name: 'Harvest break' }]);
    expect(json.items![0]!.dueAt).toBe('2026-09-14T17:00:00-04:00');
    expect(report.refused.map((r) => [r.row, r.code])).toEqual([
      [4, 'unknownItem'],
      [5, 'repeats'],
    ]);
  });

  test.each([
    // RFC 5545, 3.3.5: the three forms of a date with time, here at the same hour.
    ['DTSTART:19980118T230000', '1998-01-18T23:00:00-05:00'],
    ['DTSTART:19980119T070000Z', '1998-01-19T02:00:00-05:00'],
    ['DTSTART;TZID=America/New_York:19980119T020000', '1998-01-19T02:00:00-05:00'],
    ['DTSTART;TZID=America/Los_Angeles:19970714T133000', '1997-07-14T16:30:00-04:00'],
    ['DTSTART;VALUE=DATE:19970714', '1997-07-14T23:59:00-04:00'],
  ])('[RFC 5545] reads %s', (start, due) => {
    expect(bring('a.ics', calendar(`SUMMARY:Tide tables quiz\r\n${start}`)).json.items![0]!.dueAt).toBe(due);
  });

  test('is refused where it is damaged or has no events', () => {
    expect(() => bring('a.ics', 'BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n')).toThrow(/no events/);
    expect(() => bring('a.ics', 'BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\nnonsense\r\n')).toThrow(/damaged|no events/);
  });
});

describe('xAPI statements', () => {
  /** The simple and the typical statement of the specification (xAPI 1.0.3, part 2, appendix A), typed from memory. */
  const simple = {
    id: 'fd41c918-b88b-4b20-a0a5-a4c32391aaa0',
    timestamp: '2015-11-18T12:17:00+00:00',
    actor: { objectType: 'Agent', name: 'Project Tin Can API', mbox: 'mailto:user@example.com' },
    verb: { id: 'http://example.com/xapi/verbs#sent-a-statement', display: { 'en-US': 'sent' } },
    object: {
      id: 'http://example.com/xapi/activity/simplestatement',
      definition: { name: { 'en-US': 'simple statement' } },
    },
  };
  const typical = {
    id: '7ccd3322-e1a5-411a-a67d-6a735c76f119',
    timestamp: '2015-12-18T12:17:00+00:00',
    actor: { objectType: 'Agent', name: 'Example Learner', mbox: 'mailto:example.learner@adlnet.gov' },
    verb: { id: 'http://adlnet.gov/expapi/verbs/attempted', display: { 'en-US': 'attempted' } },
    object: {
      id: 'http://example.adlnet.gov/xapi/example/simpleCBT',
      definition: { name: { 'en-US': 'simple CBT course' } },
    },
    result: { score: { scaled: 0.95 }, success: true, completion: true, duration: 'PT1234S' },
  };
  const of = (...more: object[]) =>
    more.map((m) => ({ ...typical, actor: { mbox: 'mailto:imani@saltmarsh.example' }, ...m }));

  test('of the specification are read, and say what they lack here', () => {
    const { report } = bring('s.json', JSON.stringify([simple, typical]));
    expect(report.kind).toBe('xapi');
    expect(report.refused.map((r) => [r.row, r.column, r.code])).toEqual([
      [1, 'verb', 'verb'],
      [2, 'actor', 'unknownPerson'],
    ]);
  });

  test('become events and grades, once each', () => {
    const list = of(
      { object: { id: 'https://lms.saltmarsh.example/items/q1/' } },
      {
        id: 'aaaaaaaa-b88b-4b20-a0a5-a4c32391aaa0',
        verb: { id: 'http://adlnet.gov/expapi/verbs/scored' },
        object: { id: 'https://x.example/q1' },
      },
      { verb: { id: 'https://w3id.org/xapi/adl/verbs/logged-in' }, object: { id: 'https://lms.saltmarsh.example/' } },
      { verb: { id: 'http://adlnet.gov/expapi/verbs/terminated' } },
    );
    const { report, json } = bring('s.jsonl', list.map((s) => JSON.stringify(s)).join('\n'));
    expect(counts(report)).toEqual([3, 0, 1, 0]);
    expect(json.events).toEqual([
      { person: 'p1', kind: 'open', item: 'q1', at: '2015-12-18T07:17:00-05:00' },
      { person: 'p1', kind: 'signIn', at: '2015-12-18T07:17:00-05:00' },
    ]);
    expect(json.grades).toEqual([{ person: 'p1', item: 'q1', points: 19, at: '2015-12-18T07:17:00-05:00' }]);
  });

  test('find their actor by mailbox, hash or account, and their object by what somebody chose', () => {
    // xAPI 1.0.3, part 2, 2.4.2.3: the hash is that of the mailbox with its mailto:. SHA-1 of "abc" would be RFC 3174's.
    const actors = [
      { mbox_sha1sum: mailboxSum('imani@saltmarsh.example') },
      { account: { homePage: 'https://lms.saltmarsh.example', name: 'p2' } },
    ];
    const list = actors.map((actor, i) => ({ ...typical, id: undefined, timestamp: `2015-12-18T12:1${i}:00Z`, actor }));
    const items = { [typical.object.id.toLowerCase()]: { item: 'q1' } };
    const { json, report } = bring('s.json', JSON.stringify({ statements: list, more: '' }), { choices: { items } });
    expect(report.refused).toEqual([]);
    expect(json.events!.map((e) => [e.person, e.item])).toEqual([
      ['p1', 'q1'],
      ['p2', 'q1'],
    ]);
  });

  test('that are no JSON are refused by their lines', () => {
    const lines = [JSON.stringify(of({ object: { id: 'q1' } })[0]), '{"actor":', '{}'].join('\n');
    expect(bring('s.jsonl', lines).report.refused.map((r) => [r.row, r.code])).toEqual([
      [2, 'json'],
      [3, 'statement'],
    ]);
    expect(() => bring('s.json', '{nothing')).toThrow(/no JSON/);
  });
});

describe('a OneRoster export', () => {
  /** Headers of OneRoster CSV 1.1, typed from memory of 1EdTech's binding. */
  const zip = {
    'manifest.csv': 'propertyName,value\nmanifest.version,1.0\noneroster.version,1.1\n',
    'classes.csv':
      'sourcedId,status,dateLastModified,title,grades,courseSourcedId,classCode,classType,location,schoolSourcedId,termSourcedIds,subjects,subjectCodes,periods\nc1,active,,Coastal Navigation A,,nav,NAV 120-A,scheduled,,s,t1,,,\nc2,active,,Weather,,met,MET 115,scheduled,,s,t1,,,\n',
    'users.csv':
      'sourcedId,status,dateLastModified,enabledUser,orgSourcedIds,role,username,userIds,givenName,familyName,middleName,identifier,email,sms,phone,agentSourcedIds,grades,password\nu1,active,,true,s,student,imani,,Imani,Okoro,,,imani@saltmarsh.example,,,,,\nu3,active,,true,s,student,runa,,Runa,Dahl,,,runa@saltmarsh.example,,,,,\nu4,active,,true,s,student,who,,Not,Ours,,,x@saltmarsh.example,,,,,\n',
    'enrollments.csv':
      'sourcedId,status,dateLastModified,classSourcedId,schoolSourcedId,userSourcedId,role,primary,beginDate,endDate\ne1,active,,c1,s,u1,student,,,\ne2,active,,c1,s,u3,student,,2026-09-02,\ne3,active,,c2,s,u4,student,,,\ne4,active,,c1,s,u9,student,,,\n',
    'categories.csv': 'sourcedId,status,dateLastModified,title\ncat,active,,Labs\n',
    'lineItems.csv':
      'sourcedId,status,dateLastModified,title,description,assignDate,dueDate,classSourcedId,categorySourcedId,gradingPeriodSourcedId,resultValueMin,resultValueMax\nli1,active,,Chart lab 1,,2026-09-07,2026-09-20,c1,cat,,0,40\nli2,active,,Other,,,,c2,cat,,0,40\n',
    'results.csv':
      'sourcedId,status,dateLastModified,lineItemSourcedId,studentSourcedId,scoreStatus,score,scoreDate,comment\nr1,active,,li1,u1,fully graded,36,2026-09-22,\nr2,active,,li1,u3,exempt,,2026-09-22,\nr3,active,,li2,u4,fully graded,3,2026-09-22,\n',
  };

  test('brings the people, items and results of this course alone', () => {
    const { report, json } = bring('export.zip', zip);
    expect(report.kind).toBe('oneroster');
    expect(json.people.map((p) => [p.id, p.lastName, p.active ?? true])).toEqual([
      ['p1', 'Okoro', true],
      ['p2', 'Lind', true],
      ['u3', 'Dahl', true],
    ]);
    expect(json.people[2]).toMatchObject({ enrolledAt: '2026-09-02T00:00:00-04:00' });
    expect(json.items!.at(-1)).toEqual({
      id: 'li1',
      title: 'Chart lab 1',
      kind: 'assignment',
      points: 40,
      group: 'Labs',
      opensAt: '2026-09-07T00:00:00-04:00',
      dueAt: '2026-09-20T23:59:00-04:00',
      excused: ['u3'],
    });
    expect(json.grades).toEqual([{ person: 'p1', item: 'li1', points: 36, at: '2026-09-22T00:00:00-04:00' }]);
    expect(report.refused).toEqual([
      {
        row: 5,
        line: 5,
        column: 'userSourcedId',
        code: 'unknownPerson',
        message: expect.any(String),
        part: 'enrollments.csv',
      },
      {
        row: 4,
        line: 4,
        column: 'lineItemSourcedId',
        code: 'unknownItem',
        message: expect.any(String),
        part: 'results.csv',
      },
    ]);
  });

  test('of several courses, none of which is called like this one, is refused', () => {
    const other = structuredClone(course);
    Object.assign(other.course, { code: 'X', title: 'Other things' });
    expect(() => bring('export.zip', zip, {}, other)).toThrow(/none is called like this course/);
  });

  test('sets the days of a course that is empty, by its term', () => {
    const empty = { ...structuredClone(course), people: [] };
    const sessions =
      'sourcedId,status,dateLastModified,title,type,startDate,endDate,parentSourcedId,schoolYear\nt1,active,,Fall,term,2026-09-01,2026-12-20,,2027\nt2,active,,Spring,term,2027-01-05,2027-05-20,,2027\n';
    const { json, report } = bring('export.zip', { ...zip, 'academicSessions.csv': sessions }, {}, empty);
    expect([json.course.start, json.course.end]).toEqual(['2026-09-01', '2026-12-20']);
    expect(report.changed).toBe(2);
    expect(bring('export.zip', { ...zip, 'academicSessions.csv': sessions }).json.course.start).toBe('2026-08-31');
  });

  test('comes in single files as well', () => {
    const { report, json } = bring('users.csv', zip['users.csv']);
    expect([report.kind, json.people.length]).toEqual(['oneroster', 4]);
  });
});

describe('a workbook', () => {
  const sheet = (rows: string) => `<worksheet><sheetData>${rows}</sheetData></worksheet>`;
  const book = (sheet1: string, more: Record<string, string> = {}) => ({
    'xl/workbook.xml': '<workbook xmlns:r="r"><sheets><sheet name="Roster" r:id="rId1"/></sheets></workbook>',
    'xl/_rels/workbook.xml.rels':
      '<Relationships><Relationship Id="rId1" Type="x/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="x/styles" Target="styles.xml"/><Relationship Id="rId3" Type="x/sharedStrings" Target="sharedStrings.xml"/></Relationships>',
    'xl/styles.xml': '<styleSheet><cellXfs><xf numFmtId="0"/><xf numFmtId="14"/></cellXfs></styleSheet>',
    'xl/sharedStrings.xml':
      '<sst><si><t>Student ID</t></si><si><t>Name</t></si><si><r><t>Dahl, </t></r><r><t>Runa</t></r></si><si><t>Enrolled on</t></si></sst>',
    'xl/worksheets/sheet1.xml': sheet1,
    ...more,
  });
  const cell = (r: string, v: string, t = '', s = '') =>
    `<c r="${r}"${t && ` t="${t}"`}${s && ` s="${s}"`}><v>${v}</v></c>`;
  const title = `<row r="1">${cell('A1', 'Roster of the fall', 'str')}</row>`;
  const header = `<row r="3">${cell('A3', '0', 's')}${cell('B3', '1', 's')}${cell('C3', '3', 's')}</row>`;

  test('is read below its titles, with dates as dates and computed cells by their values', () => {
    // ECMA-376: day 46268 is 2026-09-03.
    const row = `<row r="4"><c r="A4" t="str"><f>"p"&amp;3</f><v>p3</v></c>${cell('B4', '2', 's')}${cell('C4', '46268', '', '1')}</row>`;
    const { report, json } = bring('roster.xlsx', book(sheet(title + header + row)));
    expect(report).toMatchObject({ kind: 'roster', sheet: 'Roster', encoding: null, read: 1, new: 1, refused: [] });
    expect(json.people[2]).toMatchObject({ id: 'p3', firstName: 'Runa', enrolledAt: '2026-09-03T00:00:00-04:00' });
  });

  test.each([
    [
      'a formula that calls out',
      sheet(`${header}<row r="4"><c r="A4"><f>WEBSERVICE("x")</f><v>1</v></c></row>`),
      /calls out/,
    ],
    ['entities of its own', `<!DOCTYPE x [<!ENTITY a "b">]>${sheet(header)}`, /entities/],
    ['a damaged sheet', '<worksheet><sheetData><row>', /damaged/],
    ['too many columns', sheet(`<row r="1">${cell('XFD1', '1')}</row>`), /columns/],
    ['too many rows', sheet(`<row r="1048576">${cell('A1048576', '1')}</row>`), /rows/],
    ['a cell that is too long', sheet(`<row r="1">${cell('A1', 'x'.repeat(40_000), 'str')}</row>`), /too long/],
    ['no rows', sheet(header), /no rows/],
  ])('with %s is refused whole', (_what, content, said) => {
    expect(() => bring('roster.xlsx', book(content))).toThrow(said);
  });
});

describe('what a file is', () => {
  test.each([
    ['roster.csv', new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0]), /no text/],
    ['roster.xlsx', bytes('id,name\n1,x'), /called \.xlsx/],
    ['old.xls', new Uint8Array([0xd0, 0xcf, 0x11, 0xe0]), /old format/],
    ['empty.csv', new Uint8Array(0), /empty/],
  ])('is its content, not its name: %s', (name, content, said) => {
    expect(() => importFile({ name, content: { bytes: content } }, draftOf(course), { asOf })).toThrow(said);
  });

  test('cannot be told against its form', () => {
    expect(() => bring('a.csv', 'id,name\np1,x\n', { kind: 'calendar' })).toThrow(
      /a sheet of people and cannot be read as a calendar/,
    );
    expect(() => bring('a.csv', JSON.stringify([{}]), { kind: 'roster' })).toThrow(/xAPI/);
  });

  test('a scenario file is merged', () => {
    const { report } = bring('s.json', JSON.stringify(course));
    expect([report.kind, ...counts(report)]).toEqual(['scenario', 0, 0, 4, 0]);
    expect(() => bring('s.json', JSON.stringify({ ...course, people: 1 }))).toThrow(/does not fit/);
  });
});

describe('what can be asked', () => {
  const read = (text: string, options: Partial<ImportOptions> = {}) => {
    const draft = draftOf(course);
    const parts = importFileInParts({ name: 'f.csv', content: { bytes: bytes(text) } }, draft, { asOf, ...options });
    for (;;) {
      const part = parts.next();
      if (part.done) return { report: part.value, draft };
    }
  };

  test('is said once, and an answer takes the rows', () => {
    const text = 'Name,Quiz 9 (20),Tide tables quiz\nImani,1,1\nTeo Lind,2,2\n';
    const asked = read(text);
    expect(asked.report.questions).toEqual([
      { about: 'item', said: 'Quiz 9 (20)' },
      { about: 'person', said: 'Imani', candidates: [] },
    ]);
    const answered = read(text, { choices: { people: { imani: 'p1' }, items: { 'quiz 9 (20)': 'new' } } });
    expect(answered.report.refused).toEqual([]);
    expect(answered.draft.json.items!.at(-1)).toMatchObject({ id: 'quiz-9', title: 'Quiz 9', points: 20 });
    expect(answered.draft.facts.grades).toHaveLength(4);
    expect(read(text, { choices: { items: { 'quiz 9 (20)': 'nothing' } } }).report.new).toBe(1);
  });

  test('a score above the points possible is asked about, once an item, and taken or left out as one says', () => {
    const text = 'id,q1\np1,17\np2,180\n';
    const possible = course.items!.find((i) => i.id === 'q1')!.points!;
    expect(possible).toBeLessThan(180);
    const asked = read(text);
    expect(asked.report.refused.map((r) => [r.code, r.message])).toEqual([
      ['over', `180 is more than the ${possible} points possible of “Tide tables quiz”`],
    ]);
    expect(asked.report.questions).toEqual([{ about: 'over', said: 'Tide tables quiz', item: 'q1', possible }]);
    const taken = read(text, { choices: { over: { q1: 'take' } } });
    expect(taken.draft.toScenario().grades).toMatchObject([{ points: 17 }, { points: 180 }]);
    expect(taken.report.refused).toEqual([]);
    const left = read(text, { choices: { over: { q1: 'leave' } } });
    expect(left.draft.toScenario().grades).toMatchObject([{ points: 17 }]);
    expect(left.report.refused).toEqual([]);
  });

  test('is the order of day and month', () => {
    const text = 'person,kind,at\np1,login,03/04/2026\n';
    expect(read(text).report.questions).toEqual([{ about: 'dayOrder', column: 'at', example: '03/04/2026' }]);
    const { draft } = read(text, { dayOrders: { at: 'dayFirst' } });
    expect(draft.facts.events.at(0)!.at).toBe(at('2026-04-03T00:00'));
  });

  test('and a roster says whom it leaves out', () => {
    expect(read('id,name\np1,Imani Okoro\n').report.missing).toEqual(['p2']);
  });

  test('what a file says is wrong is taken back', () => {
    const base = structuredClone(course);
    base.events = [{ person: 'p1', kind: 'visit', at: '2026-09-02T10:00:00-04:00' }];
    base.grades = [{ person: 'p1', item: 'q1', points: 4, at: '2026-09-20T10:00:00-04:00' }];
    const draft = draftOf(base);
    const take = (text: string) =>
      importFile({ name: 'f.csv', content: { bytes: bytes(text) } }, draft, { asOf, isCorrection: true });
    expect(take('person,kind,at\np1,visit,2026-09-02 10:00\np1,visit,2026-09-03 10:00\n')).toMatchObject({
      changed: 1,
      same: 1,
    });
    expect(take('person,item,points\np1,q1,4\n')).toMatchObject({ changed: 1 });
    expect(draft.toScenario()).toMatchObject({ events: [], grades: [] });
  });

  test('attendance that is marked anew takes the place of the mark before', () => {
    const draft = draftOf(course);
    const take = (mark: string) =>
      importFile({ name: 'f.csv', content: { bytes: bytes(`id,s1\np1,${mark}\n`) } }, draft, { asOf });
    expect([take('A').new, take('A').same, take('P').changed]).toEqual([1, 1, 1]);
    expect(draft.toScenario().events!.map((e) => e.kind)).toEqual(['attend']);
  });

  test('a cell that would run something refuses its row', () => {
    const { report } = read(
      `id,name,Boat\np1,Imani Okoro,"=HYPERLINK(""http://x.example"",""y"")"\np2,Teo Lind,=cmd|'/C calc'!A0\n`,
    );
    expect(report.refused.map((r) => [r.row, r.column, r.code])).toEqual([
      [2, 'Boat', 'formula'],
      [3, 'Boat', 'formula'],
    ]);
  });
});
