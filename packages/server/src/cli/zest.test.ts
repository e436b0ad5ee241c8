import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, expect, jest, test } from '@jest/globals';

jest.setTimeout(60_000);

const root = fileURLToPath(new URL('../../../..', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'zest-bell-cli-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** As a person runs it, by npm. */
function zest(...args: string[]) {
  const run = spawnSync('npm', ['run', '--silent', 'zest', '--', ...args], {
    cwd: root,
    encoding: 'utf8',
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  return {
    code: run.status,
    out: run.stdout,
    err: run.stderr.split('\n').filter((l) => l && !l.startsWith('npm warn')),
  };
}

test('replays a scenario file and prints its decisions alone', () => {
  const { code, out } = zest('replay', 'examples/two-rules-one-budget.json', '--rule', 'work');
  expect(code).toBe(0);
  const file = JSON.parse(out) as { format: string; decisions: { rule: string; outcome: string }[] };
  expect(file.format).toBe('zest-bell/decisions@1');
  expect(file.decisions.map((d) => d.outcome)).toEqual(['sent', 'withheld', 'withheld']);
});

test('rehearses one round', () => {
  const { out } = zest('rehearse', 'examples/once-a-spell.json', '--rule', 'away', '--at', '2026-09-12T12:00:00-04:00');
  expect(JSON.parse(out)).toEqual({ format: 'zest-bell/decisions@1', decisions: [] });
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
