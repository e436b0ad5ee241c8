/** Files that were made to hurt: each is a sentence, within a moment. */
import { describe, expect, test } from '@jest/globals';
import { parseScenario } from '../../scenario/format.ts';
import { NEW_YORK } from '../../testing/build.ts';
import type { ScenarioJson } from './draft.ts';
import { draftOf, importFile } from './importFiles.ts';
import type { ArchiveParts } from '../read/workbook.ts';

const base: ScenarioJson = {
  format: 'zest-bell/scenario@1',
  course: { code: 'NAV 120', title: 'Coastal Navigation', timeZone: NEW_YORK, start: '2026-08-31', end: '2026-12-18' },
  people: [{ id: 'p1', firstName: 'Asta', lastName: 'Lind', role: 'student', enrolledAt: '2026-08-31T00:00:00-04:00' }],
  items: [{ id: 'q1', title: 'Tide quiz', kind: 'quiz', points: 20 }],
};
const bytes = (text: string) => new TextEncoder().encode(text);
const bring = (name: string, content: string | ArchiveParts, draft = draftOf(base)) =>
  importFile({ name, content: typeof content === 'string' ? { bytes: bytes(content) } : { parts: content } }, draft, {
    asOf: Date.UTC(2026, 9, 26, 12),
    add: { people: true, items: true },
  });
describe('[F19] a calendar', () => {
  const calendar = (event: string) =>
    `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:1\r\n${event}\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n`;
  test.each([
    ['DTSTART;VALUE=DATE:20261128\r\nDURATION:P999999999999W\r\nSUMMARY:Thanksgiving break', 'tooLong'],
    ['DTSTART;VALUE=DATE:20261128\r\nDTEND;VALUE=DATE:99991231\r\nSUMMARY:Thanksgiving break', 'dateRange'],
    ['DTSTART;VALUE=DATE:20261128\r\nDTEND;VALUE=DATE:20281231\r\nSUMMARY:Thanksgiving break', 'tooLong'],
    [`DTSTART;VALUE=DATE:20261128\r\nSUMMARY:Quiz${' '.repeat(40_000)}x`, 'unknownItem'],
    [`DTSTART;VALUE=DATE:20261128\r\nSUMMARY:${'x'.repeat(900)}`, 'tooLong'],
  ])('that lasts for ever is refused: %#', (event, code) => {
    expect(bring('a.ics', calendar(event)).refused.map((r) => r.code)).toEqual([code]);
  });
  test.each([
    ['every second', 'FREQ=SECONDLY'],
    ['on a day that never comes', 'FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30'],
    ['on every day of the year', 'FREQ=YEARLY;BYYEARDAY=1,2,3'],
    ['at every minute of a day', 'FREQ=YEARLY;BYMINUTE=1,2,3'],
  ])('whose time zone changes %s refuses the events of that zone alone', (_name, rule) => {
    const zone = `BEGIN:VTIMEZONE\r\nTZID:Odd\r\nBEGIN:STANDARD\r\nDTSTART:19700101T000000\r\nRRULE:${rule}\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0000\r\nEND:STANDARD\r\nEND:VTIMEZONE`;
    const text = calendar('DTSTART;TZID=Odd:20261128T100000\r\nSUMMARY:Tide quiz').replace(
      'BEGIN:VEVENT',
      `${zone}\r\nBEGIN:VEVENT\r\nUID:2\r\nDTSTART:20261127T100000Z\r\nSUMMARY:Tide quiz\r\nEND:VEVENT\r\nBEGIN:VEVENT`,
    );
    const found = bring('a.ics', text);
    expect(found.new).toBe(1);
    expect(found.refused.map((r) => r.code)).toEqual(['zone']);
  });
  test('of many events does not take the square of them', () => {
    const taken = (many: number): number => {
      const events = Array.from(
        { length: many },
        (_, i) => `UID:${i}\r\nDTSTART:20261128T100000Z\r\nSUMMARY:Quiz ${i}`,
      ).join('\r\nEND:VEVENT\r\nBEGIN:VEVENT\r\n');
      const from = process.cpuUsage();
      expect(bring('a.ics', calendar(events)).refused).toHaveLength(many);
      return process.cpuUsage(from).user;
    };
    taken(200);
    // Eight times the events: eight times as long, where the square would take sixty-four times.
    expect(taken(8000) / taken(1000)).toBeLessThan(28);
  });
});

describe('[F19] JSON', () => {
  const DEEP = '['.repeat(1_000_000);
  test.each([
    ['a list', DEEP],
    ['a list that ends', `${DEEP}${']'.repeat(1_000_000)}`],
    ['a scenario', `{"format":"zest-bell/scenario@1","x":${DEEP}`],
    ['a line of statements', `{"a":1}\n${DEEP}`],
  ])('%s that is nested without end is a sentence', (_name, text) => {
    expect(() => bring('a.json', text)).toThrow('nested too deeply');
  });
  test('brackets in words are no nesting', () => {
    const words = `{"name":"${'['.repeat(500)}\\"${'{'.repeat(500)}"}`;
    expect(bring('a.json', words).refused.map((r) => r.code)).toEqual(['statement']);
  });
});

describe('[F19] a text', () => {
  test('with one long cell is a sentence', () => {
    expect(() => bring('a.csv', `Name,Tide quiz\nAsta Lind,=${'('.repeat(50_000)}\n`)).toThrow(/more than 32,767/);
    const text = `Name,Tide quiz\nAsta Lind,=${'('.repeat(32_000)}\n`;
    expect(bring('a.csv', text).refused).toHaveLength(1);
  });
  test('of twenty thousand new people does not take the square of its rows', () => {
    /** Processor time, in µs: what else the machine does is no matter. */
    const taken = (many: number): number => {
      const rows = Array.from({ length: many }, (_, i) => `n${i},First${i},Last${i},n${i}@x.example`).join('\n');
      const from = process.cpuUsage();
      const draft = draftOf(base);
      expect(bring('a.csv', `id,First name,Last name,Email\n${rows}\n`, draft)).toMatchObject({ new: many });
      // All of them under other names: as quick.
      const turned = rows.replaceAll('First', 'Second');
      expect(bring('a.csv', `id,First name,Last name,Email\n${turned}\n`, draft)).toMatchObject({ changed: many });
      return process.cpuUsage(from).user;
    };
    taken(500);
    // Eight times the rows: eight times as long, where the square would take sixty-four times.
    expect(taken(20_000) / taken(2500)).toBeLessThan(28);
  });
  test('of columns under names that nothing can be kept under leaves them out', () => {
    const draft = draftOf(base);
    bring('a.csv', 'Name,constructor,__proto__,toString\nAsta Lind,a,b,c\n', draft);
    expect(draft.json.people[0]!.fields ?? {}).toEqual({});
  });
});

describe('[F19] a workbook', () => {
  const WORKBOOK = '<workbook xmlns:r="r"><sheets><sheet name="A" sheetId="1" r:id="rId1"/></sheets></workbook>';
  const RELATIONS =
    '<Relationships><Relationship Id="rId1" Type="t/worksheet" Target="worksheets/sheet1.xml"/></Relationships>';
  const parts = (sheet: string): ArchiveParts =>
    new Map(
      Object.entries({
        'xl/workbook.xml': WORKBOOK,
        'xl/_rels/workbook.xml.rels': RELATIONS,
        'xl/worksheets/sheet1.xml': sheet,
      }).map(([name, text]) => [name, bytes(text)]),
    );
  test.each([
    [
      'of rows padded to their last column',
      `<worksheet>${Array.from({ length: 10_000 }, (_, i) => `<row r="${i + 1}"><c r="BXX${i + 1}"><v>1</v></c></row>`).join('')}</worksheet>`,
      /too many cells/,
    ],
    ['nested without end', `<worksheet>${'<a>'.repeat(5000)}${'</a>'.repeat(5000)}</worksheet>`, /nested/],
    [
      'of attributes without end',
      `<worksheet ${Array.from({ length: 5000 }, (_, i) => `a${i}=""`).join(' ')}/>`,
      /attributes/,
    ],
  ])('%s is a sentence', (_name, sheet, said) => {
    expect(() => bring('a.xlsx', parts(sheet))).toThrow(said);
  });
});

describe('a scenario file', () => {
  const problems = (part: object) => {
    const parsed = parseScenario({ ...base, ...part });
    return parsed.ok ? [] : parsed.problems.map((p) => p.path);
  };
  test('holds no more than a course does, each excess at its path', () => {
    expect(problems({ course: { ...base.course, start: '0001-01-01', end: '9999-12-31' } })).toContain('course.end');
    const break_ = { from: '2026-09-07', to: '2026-09-07' };
    expect(problems({ course: { ...base.course, breaks: Array.from({ length: 61 }, () => break_) } })).toEqual([
      'course.breaks',
    ]);
    expect(problems({ people: [{ ...base.people[0]!, email: 'a@x.example, b@x.example' }] })).toEqual([
      'people[0].email',
    ]);
    expect(problems({ people: [{ ...base.people[0]!, lastName: 'x'.repeat(201) }] })).toEqual(['people[0].lastName']);
    expect(problems({ rules: Array.from({ length: 5000 }, () => ({})) })).toContain('rules');
  });
});
