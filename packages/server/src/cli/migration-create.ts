/** Writes a migration from the difference between the entities and the last snapshot. */
import { openDatabase } from '../database.ts';

const orm = await openDatabase(':memory:');
const result = await orm.getMigrator().createMigration(undefined, false, process.argv.includes('--initial'));
process.stdout.write(`${result.fileName || 'no changes'}\n`);
await orm.close();
