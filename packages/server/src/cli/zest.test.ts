import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
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
