/** The clients of `examples/clients` as a program runs them: over the network, with a token, and without a browser. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { FallingAnswer, IngestAnswer, LogAnswer } from '@zest-bell/core/exchange';
import { runs } from '../testing/runs.ts';
import { openStage, type TestStage } from '../testing/stage.ts';

const CLIENTS = fileURLToPath(new URL('../../../../examples/clients/', import.meta.url));
const folder = mkdtempSync(join(tmpdir(), 'zest-bell-clients-'));
let stage: TestStage;
let server: Server;
let token: string;
beforeAll(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  server = stage.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const ada = await stage.signIn();
  const wanted = { name: 'Client', capabilities: ['data.write', 'course.read'] };
  const { body } = await ada.post('/api/v1/courses/1/tokens').send(wanted).expect(201);
  token = (body as { secret: string }).secret;
});
afterAll(async () => {
  server.close();
  server.closeAllConnections();
  await stage.close();
  rmSync(folder, { recursive: true, force: true });
});

const run = (program: string, file: string, to: string): Promise<string> => {
  const { port } = server.address() as AddressInfo;
  const env = { ZEST_URL: `http://127.0.0.1:${port}`, ZEST_COURSE: '1', ZEST_TOKEN: token };
  return runs(program, [join(CLIENTS, file), 'p1', '2026-09-09T10:00:00Z', to], env);
};

const isThere = (program: string) => process.env['PATH']!.split(':').some((p) => existsSync(join(p, program)));

test.each([
  ['client.mjs', process.execPath, null],
  ['client.py', 'python3', 'python3'],
  ['client.sh', 'sh', 'curl'],
])('%s brings an event in, lists who is falling through, and saves the log', async (file, program, needs) => {
  if (needs !== null && !isThere(needs)) return;
  const to = join(folder, `${file}.json`);
  const [first, second] = (await run(program, file, to)).trim().split('\n');
  expect(JSON.parse(first!) as IngestAnswer).toEqual({ taken: 1, repeated: 0, refused: [] });
  expect((JSON.parse(second!) as FallingAnswer).lines).toEqual(expect.any(Array));
  expect((JSON.parse(readFileSync(to, 'utf8')) as LogAnswer).total).toBe(0);
});
