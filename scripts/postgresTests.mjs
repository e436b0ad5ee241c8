// Which tests of the server run on PostgreSQL as well: those that say so in their first line, because they touch the dialect, locks,
// leases, transactions or hand-written SQL. With --check: whether every product file that does is covered by one of them, which means
// that a marked test lies beside it, reaches it through its own imports, or names its folder behind the mark: “Covers a/b, c.”
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './steps.mjs';

const MARK = '// Runs on PostgreSQL too.';
const folder = join(root, 'packages/server/src');
const ASKS_A_DATABASE = /openStage|openLaunching|testing\/database/;
/** Hand-written SQL, a lock, a lease, or a branch by dialect. */
const DEPENDS_ON_DATABASE =
  /getKnex\(|\.raw\(|\.ask[<(]|rowsOf[<(]|[iI]sOnPostgres|lockMode|inCourses?\(|inAccount\(|inInstallation\(|runReturning\(|execute\(|leavingOthers|\b(with|hold|take)\w*Lease\(|whenFree\(/;

const read = (file) => readFileSync(file, 'utf8');
const all = () =>
  readdirSync(folder, { recursive: true })
    .filter((name) => name.endsWith('.ts'))
    .map((name) => join(folder, name));
const isTest = (file) => file.endsWith('.test.ts');
const isMarked = (file) => read(file).startsWith(MARK);

/** The marked test files, or every test file that asks a database. */
export const testsOnPostgres = ({ every = false } = {}) =>
  all().filter((file) => isTest(file) && (every ? ASKS_A_DATABASE.test(read(file)) : isMarked(file)));

/** Product files that depend on the database and that no marked test covers. */
function uncovered() {
  const marked = testsOnPostgres();
  const covered = new Set();
  const follow = (file) => {
    if (covered.has(file) || file.includes('/testing/')) return;
    covered.add(file);
    for (const [, path] of read(file).matchAll(/(?:from|import\()\s*'(\.{1,2}\/[^']+\.ts)'/g)) {
      const next = resolve(dirname(file), path);
      if (existsSync(next)) follow(next);
    }
  };
  marked.forEach(follow);
  const named = marked.flatMap(
    (file) => /Covers ([\w/, ]+)\./.exec(read(file).split('\n', 1)[0])?.[1].split(', ') ?? [],
  );
  const beside = new Set([...marked.map(dirname), ...named.map((name) => join(folder, name))]);
  return all().filter(
    (file) =>
      !isTest(file) &&
      !/\/(testing|migrations|cli)\//.test(file) &&
      DEPENDS_ON_DATABASE.test(read(file)) &&
      !covered.has(file) &&
      !beside.has(dirname(file)),
  );
}

if (import.meta.url === pathToFileURL(process.argv[1]).href) {
  const missing = uncovered();
  for (const file of missing)
    console.error(`${relative(root, file)}: no test that runs on PostgreSQL covers it. Mark one beside it: ${MARK}`);
  process.exit(missing.length > 0 ? 1 : 0);
}
