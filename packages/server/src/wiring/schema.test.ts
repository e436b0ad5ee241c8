// Runs on PostgreSQL too.
/** The migrations make just the tables, columns and indexes that the entities name. */
import { afterEach, expect, test } from '@jest/globals';
import { openStage, type TestStage } from '../testing/stage.ts';

let stage: TestStage;
afterEach(() => stage.close());

test('a migrated database lacks nothing that an entity names, and has nothing else', async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  expect(await stage.orm.schema.getUpdateSchemaSQL()).toBe('');
});
