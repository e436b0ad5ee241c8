/** Writes a migration from the difference between the entities and the last snapshot. */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openDatabase } from '../database.ts';

// How a table is made anew is read from a database that has it.
const orm = await openDatabase(join(mkdtempSync(join(tmpdir(), 'zest-bell-')), 'zest-bell.db'));
await orm.getMigrator().up();
const result = await orm.getMigrator().createMigration(undefined, false, process.argv.includes('--initial'));
process.stdout.write(`${result.fileName || 'no changes'}\n`);
await orm.close();
