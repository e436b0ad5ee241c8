/**
 * Writes a migration from the difference between the entities and the last snapshot, for SQLite, or for the empty PostgreSQL database
 * that is named: `npm run migration:create -w @zest-bell/server [-- postgres://…]`.
 */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openDatabase } from '../wiring/database.ts';

const [named] = process.argv.slice(2).filter((a) => !a.startsWith('--'));
// How a table is made anew is read from a database that has it.
const orm = await openDatabase(named ?? join(mkdtempSync(join(tmpdir(), 'zest-bell-')), 'zest-bell.db'));
await orm.getMigrator().up();
const result = await orm.getMigrator().createMigration(undefined, false, process.argv.includes('--initial'));
process.stdout.write(`${result.fileName || 'no changes'}\n`);
await orm.close();
