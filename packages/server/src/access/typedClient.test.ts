/** A program with types made from openapi.json alone, by a generator that knows nothing of this project. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import openapiTypes, { astToString } from 'openapi-typescript';
import supertest from 'supertest';
import ts from 'typescript';
import { openStage, type TestStage } from '../testing/stage.ts';
import { runs } from '../testing/runs.ts';

const root = fileURLToPath(new URL('../../../../', import.meta.url));
let folder: string;
let stage: TestStage;
let server: Server;
beforeAll(async () => {
  // Inside the checkout, where the client finds its packages.
  mkdirSync(join(root, 'artifacts'), { recursive: true });
  folder = mkdtempSync(join(root, 'artifacts', 'client-'));
  stage = await openStage({ now: '2026-09-10T12:00' });
  server = stage.app.listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
});
afterAll(async () => {
  server.close();
  server.closeAllConnections();
  await stage.close();
  rmSync(folder, { recursive: true, force: true });
});

test('tells a visit and makes a rule, and the compiler has nothing against it', async () => {
  const { body: document } = (await supertest(stage.app).get('/api/openapi.json').expect(200)) as { body: object };
  writeFileSync(
    join(folder, 'schema.ts'),
    astToString(await openapiTypes(JSON.stringify(document), { defaultNonNullable: false })),
  );
  const client = join(folder, 'client.ts');
  cpSync(join(root, 'examples/clients/client.ts'), client);
  expect(readFileSync(client, 'utf8')).not.toMatch(/\bas [A-Z]|\bany\b|@ts-/);

  const program = ts.createProgram([client], {
    strict: true,
    exactOptionalPropertyTypes: true,
    noEmit: true,
    allowImportingTsExtensions: true,
    skipLibCheck: true,
    module: ts.ModuleKind.NodeNext,
    target: ts.ScriptTarget.ES2023,
    types: ['node'],
  });
  const told = ts.getPreEmitDiagnostics(program).map((d) => ts.flattenDiagnosticMessageText(d.messageText, '\n'));
  expect(told).toEqual([]);

  const ada = await stage.signIn();
  const wanted = { name: 'Typed client', capabilities: ['data.write', 'drafts.write'] };
  const { body } = await ada.post('/api/v1/courses/1/tokens').send(wanted).expect(201);
  const { port } = server.address() as AddressInfo;
  const said = await runs(process.execPath, ['--import=tsx', client, 'p1', '2026-09-09T10:00:00Z', 'gentle'], {
    ZEST_URL: `http://127.0.0.1:${port}`,
    ZEST_COURSE: '1',
    ZEST_TOKEN: (body as { secret: string }).secret,
  });
  const [first, second] = said.trim().split('\n');
  expect(JSON.parse(first!)).toEqual({ taken: 1, repeated: 0, refused: [] });
  expect(JSON.parse(second!)).toMatch(/not visited the course for 7 days/);
});
