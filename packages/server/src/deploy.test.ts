/** The files in deploy/ fit the server that they start. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';
import { readConfig, WORKS } from './platform/process/config.ts';

const read = (name: string) => readFileSync(fileURLToPath(new URL(`../../../deploy/${name}`, import.meta.url)), 'utf8');
const settings: Record<string, string> = Object.fromEntries(
  read('zest-bell.env')
    .split('\n')
    .filter((line) => /^\w+=/.test(line))
    .map((line) => [line.slice(0, line.indexOf('=')), line.slice(line.indexOf('=') + 1)]),
);

test.each([
  ['web', ['web'], '4171'],
  ['worker', ['rounds', 'mail', 'feeds'], '4181'],
])('the unit of a %s process and the settings are read as they stand', (name, work, port) => {
  const unit = read(`zest-bell-${name}@.service`);
  const [, given] = /^Environment=(.*)$/m.exec(unit)!;
  const own: Record<string, string> = Object.fromEntries(
    given!
      .replaceAll('%i', port)
      .split(' ')
      .map((pair) => pair.split('=')),
  );
  // A secret in a file that everyone can read is not secret.
  expect(() => readConfig({ ...settings, ...own }, '/opt/zest-bell')).toThrow('ZEST_SECRET is needed');
  const secrets = { ZEST_SECRET: 'a'.repeat(64), ZEST_METRICS_TOKEN: 'b'.repeat(32) };
  const config = readConfig({ ...settings, ...own, ...secrets }, '/opt/zest-bell');
  expect([[...config.work], config.port]).toEqual([work, Number(port)]);
  expect(config.metricsToken).not.toBeNull();
  // It has time for its ten seconds before it is killed.
  expect(Number(/^TimeoutStopSec=(\d+)$/m.exec(unit)![1])).toBeGreaterThan(10);
  expect(unit).toContain('ExecStart=/usr/bin/node packages/server/dist/main.js');
});

test('alerts ask for figures that there are', () => {
  const figures = readFileSync(new URL('./desk/figures/figures.ts', import.meta.url), 'utf8');
  const asked = [...read('zest-bell.rules.yml').matchAll(/expr: .*?(zest_\w+)/g)].map((m) => m[1]!);
  expect(asked.length).toBeGreaterThan(5);
  for (const name of asked) expect([name, figures.includes(`'${name}'`)]).toEqual([name, true]);
});

test('units keep what they write to themselves, and nginx refuses figures however they are asked for', () => {
  for (const unit of ['web', 'worker']) expect(read(`zest-bell-${unit}@.service`)).toMatch(/^UMask=0077$/m);
  const [, pattern] = /location ~\* (\S+) \{\s+deny all/.exec(read('nginx.conf'))!;
  for (const path of ['/metrics', '/METRICS', '/metrics/', '//metrics'])
    expect([path, new RegExp(pattern!, 'i').test(path)]).toEqual([path, true]);
  expect(new RegExp(pattern!, 'i').test('/metricsfoo')).toBe(false);
});

test('between them the units do all there is to do, and nginx asks the web processes', () => {
  const all = ['web', 'worker'].flatMap((name) =>
    /ZEST_WORK=(\S+)/.exec(read(`zest-bell-${name}@.service`))![1]!.split(','),
  );
  expect(all.toSorted()).toEqual([...WORKS].toSorted());
  const nginx = read('nginx.conf');
  expect([...nginx.matchAll(/server 127\.0\.0\.1:(\d+)/g)].map((m) => m[1])).toEqual(['4171', '4172']);
  expect(nginx).toContain('client_max_body_size 500m');
});
