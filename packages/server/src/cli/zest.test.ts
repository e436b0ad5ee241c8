import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { readyDatabase } from '../wiring/database.ts';
import { inTransaction } from '../platform/database/transaction.ts';
import { openRoster } from '../testing/roster.ts';
import { COURSE, SENDER } from '../testing/stage.ts';
import { insertCourse } from '../testing/insertCourse.ts';

const root = fileURLToPath(new URL('../../../..', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'zest-bell-cli-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** As a person runs it, by npm, which builds what is not built. */
const byNpm = (...args: string[]) => told('npm', ['run', '--silent', 'zest', '--', ...args]);

/** What npm runs, without npm. */
const zest = (...args: string[]) => told(process.execPath, ['packages/server/dist/cli/zest.js', ...args]);

beforeAll(() => void byNpm());

function told(program: string, args: readonly string[]) {
  const run = spawnSync(program, args, { cwd: root, encoding: 'utf8', env: { ...process.env, NODE_OPTIONS: '' } });
  return {
    code: run.status,
    out: run.stdout,
    err: run.stderr.split('\n').filter((l) => l && !l.startsWith('npm warn')),
  };
}

test('replays a scenario file and prints its decisions alone', () => {
  const { code, out } = byNpm('replay', 'examples/two-rules-one-budget.json', '--rule', 'work');
  expect(code).toBe(0);
  const file = JSON.parse(out) as { format: string; decisions: { rule: string; outcome: string }[] };
  expect(file.format).toBe('zest-bell/decisions@1');
  expect(file.decisions.map((d) => d.outcome)).toEqual(['sent', 'withheld', 'withheld']);
});

test('[Y8] reads a rule that is typed, and exits 1 where it says none', () => {
  const said = zest('say', 'examples/once-a-spell.json', 'away 5 days, daily at 9:30, once each time');
  expect([said.code, JSON.parse(said.out)]).toEqual([
    0,
    {
      format: 'zest-bell/said@1',
      rule: {
        when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
        rhythm: { start: '2026-08-31T09:30', rrule: 'FREQ=DAILY' },
        repeat: { perSpell: 1 },
      },
      sentence: 'every day at 9:30 AM, students who have not visited the course for 5 days, once each time',
      problems: [],
    },
  ]);
  const unknown = zest('say', 'examples/once-a-spell.json', 'students who like cats');
  expect([unknown.code, (JSON.parse(unknown.out) as { rule: unknown }).rule]).toEqual([1, null]);
});

test('rehearses one round', () => {
  const { out } = zest('rehearse', 'examples/once-a-spell.json', '--rule', 'away', '--at', '2026-09-12T12:00:00-04:00');
  expect(JSON.parse(out)).toEqual({ format: 'zest-bell/decisions@1', decisions: [] });
});

test('[O4] tells in hindsight how well a rule finds those with an outcome', () => {
  const outcome = join(folder, 'outcome.json');
  writeFileSync(outcome, JSON.stringify({ measure: 'missing', is: '>=', value: 1 }));
  const { code, out } = zest(
    'hindsight',
    'examples/relapse-after-recovery.json',
    '--rule',
    'labs',
    '--outcome',
    outcome,
  );
  expect(code).toBe(0);
  const file = JSON.parse(out) as Record<string, unknown>;
  expect(Object.keys(file)).toEqual([
    ...['format', 'rule', 'at', 'population', 'unknown', 'counts', 'shareFound', 'shareRight', 'leadDays', 'students'],
  ]);
  expect(file).toMatchObject({
    format: 'zest-bell/hindsight@1',
    at: '2026-12-19T00:00:00-05:00',
    population: 1,
    counts: { found: 1, missed: 0, needless: 0, leftAlone: 0 },
    shareFound: { value: 1, high: 1 },
  });
});

test('hindsight refuses a condition that does not fit the course, and an end after the outcome', () => {
  const outcome = join(folder, 'gone.json');
  writeFileSync(outcome, JSON.stringify({ measure: 'score', item: 'q9', is: '<', value: 60 }));
  const ask = ['hindsight', 'examples/relapse-after-recovery.json', '--rule', 'labs', '--outcome', outcome];
  const refused = zest(...ask);
  expect(refused.code).toBe(2);
  expect(refused.err[0]).toMatch(/^outcome\.item: /);
  writeFileSync(outcome, JSON.stringify({ measure: 'missing', is: '>=', value: 1 }));
  const late = zest(...ask, '--at', '2026-10-01T00:00:00-04:00', '--until', '2026-10-02T00:00:00-04:00');
  expect([late.code, late.err[0]]).toEqual([2, '--until: Choose an instant that is not after --at']);
  expect(zest('hindsight', 'examples/relapse-after-recovery.json', '--rule', 'labs').code).toBe(2);
});

test('[S1][S8] tells signs of an outcome, and hindsight within each section', () => {
  const people = Array.from({ length: 12 }, (_, i) => ({
    id: `s${i}`,
    firstName: `S${i}`,
    lastName: 'Moss',
    email: `s${i}@saltmarsh.example`,
    role: 'student',
    section: i < 6 ? 'b' : 'A',
    fields: { hall: `h${i}` },
    enrolledAt: '2026-08-31T00:00:00-04:00',
  }));
  const scenario = JSON.parse(readFileSync(join(root, 'examples/once-a-spell.json'), 'utf8')) as {
    rules: { id: string }[];
  };
  const lab = { id: 'lab', title: 'Lab', kind: 'assignment', dueAt: '2026-09-10T23:59:00-04:00' };
  const exam = { id: 'exam', title: 'Exam', kind: 'quiz', points: 20, dueAt: '2026-12-10T12:00:00-05:00' };
  const done = people
    .slice(5)
    .map((p) => ({ person: p.id, kind: 'submit', item: 'lab', at: '2026-09-09T10:00:00-04:00' }));
  const grades = people.map((p, i) => ({
    person: p.id,
    item: 'exam',
    points: i < 6 ? 5 : 18,
    at: '2026-12-12T10:00:00-05:00',
  }));
  const file = join(folder, 'signs.json');
  writeFileSync(file, JSON.stringify({ ...scenario, people, items: [lab, exam], events: done, grades }));
  const outcome = join(folder, 'fails.json');
  writeFileSync(outcome, JSON.stringify({ measure: 'courseGrade', is: '<', value: 60 }));
  const by = ['--by', '2026-09-28T00:00:00-04:00'];
  const told = JSON.parse(zest('signs', file, '--outcome', outcome, ...by).out) as Record<string, unknown>;
  expect(Object.keys(told)).toEqual(['format', 'at', 'by', 'worried', 'well', 'tooFew', 'signs', 'pairs']);
  expect(told).toMatchObject({ format: 'zest-bell/signs@1', worried: 6, well: 6, by: '2026-09-28T00:00:00-04:00' });
  const [first] = told['signs'] as Record<string, unknown>[];
  expect(Object.keys(first!)).toEqual(['condition', 'counts', 'honest', 'firstWeek', 'alike']);
  expect(first!['counts']).toEqual({ found: 5, missed: 1, needless: 0, leftAlone: 6 });
  expect(zest('signs', file, '--outcome', outcome, ...by, '--at', '2026-09-01T00:00:00-04:00')).toMatchObject({
    code: 2,
    err: ['--by: Choose an instant before --at'],
  });
  expect(zest('signs', file, '--outcome', outcome).code).toBe(2);

  const rule = ['--rule', scenario.rules[0]!.id, '--outcome', outcome];
  const grouped = JSON.parse(zest('hindsight', file, ...rule, '--by-group', 'section').out) as {
    groups: Record<string, unknown>[];
    differ: unknown;
  };
  expect(grouped.groups.map((g) => g['group'])).toEqual(['A', 'b']);
  expect(Object.keys(grouped.groups[0]!)).toEqual(['group', 'counts', 'shareFound', 'shareNeedless']);
  expect(grouped.differ).toEqual([]);
  expect(zest('hindsight', file, ...rule, '--by-group', 'field:hall').code).toBe(0);
  expect(zest('hindsight', file, ...rule, '--by-group', 'field:none').code).toBe(2);
  expect(zest('hindsight', file, ...rule, '--by-group', 'hall').code).toBe(2);
});

test('[O1] tells what came of the nudges of a replay', () => {
  const { code, out } = zest('outcomes', 'examples/relapse-after-recovery.json');
  expect(code).toBe(0);
  const file = JSON.parse(out) as { format: string; rules: Record<string, unknown>[] };
  expect(file.format).toBe('zest-bell/outcomes@1');
  expect(Object.keys(file.rules[0]!)).toEqual(['rule', 'nudges', 'returned', 'open', 'curve', 'comparison']);
  expect(file.rules[0]).toMatchObject({ rule: 'labs', comparison: { spells: 0, curve: [] } });
});

test('a file that does not fit is one line a problem on standard error, and exit 2', () => {
  const json = JSON.parse(readFileSync(join(root, 'examples/once-a-spell.json'), 'utf8')) as {
    rules: { when: object }[];
  };
  json.rules[0]!.when = {
    all: [
      { measure: 'daysSinceVisit', is: '>=', value: 5 },
      { measure: 'score', item: 'q9', is: '<', value: 5 },
    ],
  };
  writeFileSync(join(folder, 'bad.json'), JSON.stringify({ ...json, nope: 1 }));
  expect(zest('replay', join(folder, 'bad.json'))).toEqual({
    code: 2,
    out: '',
    err: ['nope: “nope” is not known here', 'rules[0].when.all[1].item: There is no item “q9” in this course'],
  });
  writeFileSync(join(folder, 'item.json'), JSON.stringify(json));
  expect(zest('replay', join(folder, 'item.json')).err).toEqual([
    'rules[0].when.all[1].item: There is no item “q9” in this course',
  ]);
  writeFileSync(join(folder, 'no.json'), '{');
  expect(zest('replay', join(folder, 'no.json'))).toMatchObject({ code: 2, out: '' });
  expect(zest('replay', 'examples/once-a-spell.json', '--rule', 'lost')).toMatchObject({ code: 2, out: '' });
  expect(zest('rehearse', 'examples/once-a-spell.json')).toMatchObject({ code: 2, out: '' });
});

test('imports files into a scenario, prints what each brought, and writes the new one', () => {
  const out = join(folder, 'new.json');
  const course = 'examples/import/course.json';
  const files = ['roster.csv', 'gradebook.csv'].map((name) => `examples/import/${name}`);
  const run = zest('import', course, ...files, '--as-of', '2026-10-26T08:00:00-04:00', '--out', out);
  expect(run.code).toBe(0);
  expect(JSON.parse(run.out)).toMatchObject({
    format: 'zest-bell/import@1',
    files: [
      { file: 'roster.csv', kind: 'roster', encoding: 'utf-8', delimiter: ',', read: 3, new: 1, changed: 1 },
      { file: 'gradebook.csv', kind: 'gradebook', refused: [{ row: 1, column: 'Old quiz', code: 'unknownItem' }] },
    ],
  });
  const written = JSON.parse(readFileSync(out, 'utf8')) as { people: unknown[]; grades: unknown[] };
  expect([written.people.length, written.grades.length]).toEqual([3, 2]);
});

test('an import that cannot read a file writes nothing and exits 1; wrong use exits 2', () => {
  const broken = join(folder, 'broken.csv');
  writeFileSync(broken, 'id,email\n"p1,x');
  const out = join(folder, 'none.json');
  const run = zest('import', 'examples/import/course.json', broken, '--out', out);
  expect([run.code, run.out]).toEqual([1, '']);
  expect(run.err[0]).toMatch(/broken\.csv: Record 2 opens a quotation mark/);
  expect(existsSync(out)).toBe(false);
  expect(zest('import', 'examples/import/course.json').code).toBe(2);
  expect(zest('import', 'examples/import/course.json', broken, '--kind', 'nothing').code).toBe(2);
});

test('[K1, K2, K3, K4, K5, K6] carries what was decided in one scenario into another, and prints what became of it', () => {
  const source = JSON.parse(readFileSync(join(root, 'examples/two-rules-one-budget.json'), 'utf8')) as {
    course: object;
    settings: object;
    people: object[];
    items: { id: string; title: string; kind: string }[];
    rules: { id: string }[];
  };
  const [rule] = source.rules;
  const lab = { id: 'lab-3', title: 'Chart lab 3: bearings', kind: 'assignment', dueAt: '2026-09-18T23:59:00-04:00' };
  const score = (item: string) => ({ measure: 'score', item, is: '<', value: 50 });
  const from = join(folder, 'fall.json');
  const rules = [
    { ...rule, id: 'drift', status: 'on', when: score('lab-3') },
    { ...rule, id: 'gone', status: 'on', when: { all: [score('lab-3'), score(source.items[0]!.id)] } },
  ];
  const course = { ...source.course, marks: { mastery: 80 } };
  writeFileSync(from, JSON.stringify({ ...source, course, items: [...source.items, lab], rules }));
  const spring = { ...source.course, start: '2027-01-11', end: '2027-04-30', marks: { mastery: 75 } };
  const target = {
    format: 'zest-bell/scenario@1',
    course: spring,
    people: source.people.slice(0, 1),
    items: [{ id: 'l3', title: 'Chart lab 3', kind: 'assignment' }],
    rules: [{ ...rule, id: 'drift', when: score('l3') }],
  };
  const into = join(folder, 'spring.json');
  writeFileSync(into, JSON.stringify(target));
  const out = join(folder, 'new.json');
  const run = zest('carry', from, into, '--out', out);
  expect(run).toMatchObject({ code: 0, err: [] });
  const report = JSON.parse(run.out) as Record<string, unknown>;
  expect(report).toMatchObject({ format: 'zest-bell/carried@1', days: 133 });
  expect(report['items']).toContainEqual({ from: 'lab-3', to: 'l3', how: 'alike' });
  expect(report['rules']).toMatchObject([
    { from: 'drift', to: 'drift-2', status: 'paused', problems: [] },
    { from: 'gone', to: null, status: null, problems: [{ code: 'item', path: 'when.all[1].item' }] },
  ]);
  expect(report['settings']).toContainEqual({ what: 'marks.mastery', from: 80, to: 75, kept: 'target' });
  const written = JSON.parse(readFileSync(out, 'utf8')) as typeof target & { rules: object[] };
  expect(written.rules).toMatchObject([{ id: 'drift' }, { id: 'drift-2', status: 'paused', when: { item: 'l3' } }]);
  expect({ ...written, settings: 0, rules: 0 }).toEqual({ ...target, settings: 0, rules: 0 });
  // What was written is a scenario; nothing in it rings on its own.
  expect(zest('replay', out, '--rule', 'drift-2').code).toBe(0);

  const match = (told: unknown) => {
    const file = join(folder, 'match.json');
    writeFileSync(file, JSON.stringify(told));
    return zest('carry', from, into, '--match', file, '--out', out);
  };
  expect(JSON.parse(match({ 'lab-3': null }).out)).toMatchObject({ rules: [{ to: null }, { to: null }] });
  expect(match({ 'lab-3': 'l4' })).toMatchObject({ code: 2, err: ['--match: There is no item “l4” in the target'] });
  expect(match(['l3']).code).toBe(2);
  expect(zest('carry', from, into, '--items', '--out', out).code).toBe(2);
  expect(zest('carry', from, into).code).toBe(2);

  writeFileSync(into, JSON.stringify({ ...target, items: [], rules: [] }));
  const whole = zest('carry', from, into, '--items', '--out', out);
  expect(JSON.parse(whole.out)).toMatchObject({ rules: [{ to: 'drift' }, { to: 'gone', status: 'paused' }] });
  const { items } = JSON.parse(readFileSync(out, 'utf8')) as typeof target;
  expect(items.at(-1)).toMatchObject({ id: 'lab-3', dueAt: '2027-01-29T23:59:00-05:00', excused: [], extensions: [] });
});

test('a source is added, pulled, listed and removed beside the server’s database', async () => {
  const roster = await openRoster();
  const data = join(folder, 'sources');
  mkdirSync(data);
  const orm = await readyDatabase(join(data, 'zest-bell.db'));
  await inTransaction(orm, (em) => insertCourse(em, COURSE, { sender: SENDER }));
  await orm.close();
  const input = join(folder, 'source.json');
  writeFileSync(
    input,
    JSON.stringify({
      kind: 'oneroster',
      base: roster.base,
      version: '1.2',
      tokenUrl: roster.tokenUrl,
      clientId: 'client',
      clientSecret: 's:cret',
      course: 1,
      class: 'c1',
    }),
  );
  roster.lists.students.push({ sourcedId: 'm1', givenName: 'Mira', familyName: 'Moss', email: 'm@x.example' });
  const env = { ZEST_DATA: data, ZEST_ALLOW_PRIVATE: 'on' };
  const source = (...args: string[]) => toldInTurn(['packages/server/dist/cli/zest.js', 'source', ...args], env);
  try {
    expect(await source('add', input)).toMatchObject({ code: 0, out: '{"id":1}\n' });
    const pulled = await source('pull', '1');
    expect([pulled.code, JSON.parse(pulled.out)]).toMatchObject([
      0,
      { format: 'zest-bell/pulled@1', source: 1, people: { new: 1, changed: 0, same: 0, gone: 0 }, trouble: null },
    ]);
    roster.faults.push({ on: '/students', status: 500 });
    const broken = await source('pull', '1');
    expect([broken.code, JSON.parse(broken.out)]).toMatchObject([1, { trouble: { code: 'serverError' } }]);
    expect((await source('list')).out).not.toContain('s:cret');
    expect((await source('remove', '1')).code).toBe(0);
    expect((await source('pull', '1')).code).toBe(2);
    const platform = (...args: string[]) => toldInTurn(['packages/server/dist/cli/zest.js', 'platform', ...args], env);
    const at = 'https://campus.example';
    const registration = { issuer: at, clientId: 'tool', deployments: ['1'], authEndpoint: `${at}/auth` };
    const file = join(folder, 'platform.json');
    writeFileSync(file, JSON.stringify({ ...registration, tokenEndpoint: `${at}/token`, jwksUrl: `${at}/jwks` }));
    expect(await platform('add', file)).toMatchObject({ code: 0, out: '{"id":1}\n' });
    expect(JSON.parse((await platform('list')).out)).toMatchObject([{ id: 1, issuer: at, clientId: 'tool' }]);
    expect((await platform('remove', '1')).code).toBe(0);
    writeFileSync(input, '{"kind":"oneroster","base":"nowhere"}');
    expect(await source('add', input)).toMatchObject({ code: 2, err: expect.stringContaining('base: ') });
  } finally {
    await roster.close();
  }
}, 240_000);

/** Without holding up what it asks. */
function toldInTurn(args: readonly string[], env: Readonly<Record<string, string>>) {
  const child = spawn(process.execPath, args, { cwd: root, env: { ...process.env, NODE_OPTIONS: '', ...env } });
  const said = { out: '', err: '' };
  child.stdout.on('data', (d: Buffer) => (said.out += d.toString()));
  child.stderr.on('data', (d: Buffer) => (said.err += d.toString()));
  return new Promise<{ code: number | null; out: string; err: string }>((done) =>
    child.once('close', (code) => done({ code, ...said })),
  );
}
