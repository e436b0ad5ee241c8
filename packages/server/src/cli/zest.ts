/** Replays and rehearses scenario files without a server, and backs the database up: problems go to standard error. */
import { readFileSync, writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import { z } from 'zod';
import { parseInstant } from '@zest-bell/core/time';
import { namesOfCondition, parseCondition, type Condition } from '@zest-bell/core/conditions';
import { mayGroupBy, MOST_GROUPS, type GroupBy } from '@zest-bell/core/outcomes';
import { problemsOfNames, type Rule } from '@zest-bell/core/rules';
import {
  bytesOf,
  draftOf,
  IMPORT_FORMAT,
  IMPORT_KINDS,
  importFile,
  type ImportedFile,
  type ScenarioJson,
} from '@zest-bell/core/imports';
import { matchProblems, matchProblemWords, type ConfirmedMatches } from '@zest-bell/core/carry';
import {
  carryScenario,
  chosenRules,
  hindsightScenario,
  outcomesScenario,
  parseScenario,
  rehearseScenario,
  replayScenario,
  signsScenario,
  type Scenario,
} from '@zest-bell/core/scenario';
import { saidFile } from '@zest-bell/core/saying';
import { openFile } from '../intake/imports/archive.ts';
import { AppError } from '../platform/errors/errors.ts';
import { keepToOneself } from '../platform/process/dataFolder.ts';
import { readConfig, StartProblem } from '../platform/process/config.ts';
import { wallClock } from '../platform/process/clock.ts';

const USAGE = `zest replay FILE [--rule ID]… [--from INSTANT] [--until INSTANT]
zest rehearse FILE --rule ID --at INSTANT
zest hindsight FILE --rule ID --outcome CONDITION.json [--at INSTANT] [--from INSTANT] [--until INSTANT]
               [--by-group section|field:NAME]
zest signs FILE --outcome CONDITION.json --by INSTANT [--at INSTANT]
zest outcomes FILE [--rule ID]… [--as-of INSTANT]
zest say SCENARIO "TEXT"
zest import SCENARIO FILE… [--kind KIND] [--map MAP.json] [--as-of INSTANT] [--out NEW.json]
zest carry SOURCE TARGET [--items] [--match MATCH.json] --out NEW.json
zest backup FILE
zest move --to URL
zest source add FILE.json
zest source pull ID
zest source list
zest source remove ID
zest platform add FILE.json
zest platform list
zest platform remove ID
zest account list
zest account add EMAIL [--administrator] [--yes]
zest account reset-password EMAIL [--yes]
zest account reset-factor EMAIL
zest secret replace [--yes]`;

/** What is done with one scenario file. */
const COMMANDS = ['replay', 'rehearse', 'hindsight', 'signs', 'outcomes'] as const;

/** What the caller has to mend; every line goes to standard error. `code`: 2 for wrong use, 1 for a file that cannot be read. */
class UsageError extends Error {
  readonly code: number;

  constructor(message: string, code = 2) {
    super(message);
    this.code = code;
  }
}

async function main(argv: readonly string[]): Promise<string> {
  const { positionals, values } = readArgs(argv);
  const [command, file, ...more] = positionals;
  if (command === 'source' || command === 'platform') return connections(command, file, more);
  if (command === 'account') return account(file, more, values);
  if (command === 'secret') return secret(file, more, values);
  if (command === 'move' && file === undefined && values.to !== undefined) return moveTo(values.to);
  if (command === 'backup' && file !== undefined && more.length === 0) return backUpTo(file);
  if (command === 'carry' && file !== undefined && more.length === 1) return carryInto(file, more[0]!, values);
  if (command === 'import' && file !== undefined && more.length > 0) return await importInto(file, more, values);
  if (command === 'say' && file !== undefined && more.length === 1) return sayIn(readScenario(file), more[0]!);
  if (!COMMANDS.some((c) => c === command) || file === undefined || more.length > 0) throw new UsageError(USAGE);
  const scenario = readScenario(file);
  const rules = rulesOf(scenario, values.rule ?? []);
  if (command === 'hindsight') return JSON.stringify(hindsightOf(scenario, rules, values), null, 2);
  if (command === 'signs') return JSON.stringify(signsOf(scenario, values), null, 2);
  if (command === 'outcomes')
    return JSON.stringify(outcomesScenario(scenario, rules, instantOf('as-of', values['as-of'])), null, 2);
  if (command === 'replay') {
    const span = { from: instantOf('from', values.from), until: instantOf('until', values.until) };
    return JSON.stringify(replayScenario(scenario, rules, span), null, 2);
  }
  const at = instantOf('at', values.at);
  if (at === undefined || values.rule?.length !== 1)
    throw new UsageError(`A rehearsal needs one --rule and --at.\n${USAGE}`);
  return JSON.stringify(rehearseScenario(scenario, rules, at), null, 2);
}

/** Exit 1 where the text says no rule. */
function sayIn({ course, grades }: Scenario, text: string): string {
  const criteria = [...new Set(grades.flatMap((g) => g.criterion ?? []))];
  const said = saidFile(text, course, { criteria });
  if (said.problems.length > 0) process.exitCode = 1;
  return JSON.stringify(said, null, 2);
}

function hindsightOf(
  scenario: Scenario,
  rules: readonly Rule[],
  values: ReturnType<typeof readArgs>['values'],
): object {
  const [rule] = rules;
  if (!rule || values.rule?.length !== 1 || values.outcome === undefined)
    throw new UsageError(`zest hindsight needs one --rule and --outcome.\n${USAGE}`);
  const outcome = outcomeOf(scenario, values.outcome);
  const at = instantOf('at', values.at) ?? scenario.course.calendar.end;
  const span = { at, from: instantOf('from', values.from), until: instantOf('until', values.until) };
  if (span.until !== undefined && span.until > at)
    throw new UsageError('--until: Choose an instant that is not after --at');
  return hindsightScenario(scenario, rule, outcome, { ...span, by: groupingOf(scenario, values['by-group']) });
}

function groupingOf({ course }: Scenario, said: string | undefined): GroupBy | undefined {
  if (said === undefined) return undefined;
  const name = /^field:(.+)$/.exec(said)?.[1];
  if (said !== 'section' && name === undefined) throw new UsageError('--by-group: Write section, or field:NAME');
  const by: GroupBy = name === undefined ? { of: 'section' } : { of: 'field', name };
  if (!mayGroupBy(course, by))
    throw new UsageError(`--by-group: “${name}” is no column of this course that at most ${MOST_GROUPS} values fill`);
  return by;
}

function signsOf(scenario: Scenario, values: ReturnType<typeof readArgs>['values']): object {
  const by = instantOf('by', values.by);
  if (values.outcome === undefined || by === undefined)
    throw new UsageError(`zest signs needs --outcome and --by.\n${USAGE}`);
  const outcome = outcomeOf(scenario, values.outcome);
  const at = instantOf('at', values.at) ?? scenario.course.calendar.end;
  if (by >= at) throw new UsageError('--by: Choose an instant before --at');
  return signsScenario(scenario, outcome, { at, by });
}

/** A condition that fits the course. Throws `UsageError`. */
function outcomeOf({ course }: Scenario, file: string): Condition {
  const outcome = parseCondition(readJson(file), 'outcome');
  const problems = outcome.ok ? problemsOfNames(namesOfCondition(outcome.value, 'outcome'), course) : outcome.problems;
  if (!outcome.ok || problems.length > 0)
    throw new UsageError(problems.map((p) => `${p.path}: ${p.message}`).join('\n'));
  return outcome.value;
}

/** Copies the database that the server's own settings name. */
async function backUpTo(file: string): Promise<string> {
  keepToOneself();
  // Only here: the database's library takes longer to load than a replay takes.
  const [{ backUp }, { placeOf }] = await Promise.all([import('./backup.ts'), import('../wiring/database.ts')]);
  const config = readConfig(process.env, process.cwd());
  try {
    await backUp(placeOf(config), file, wallClock());
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
  if (config.databaseUrl !== null) {
    return `Saved as ${file}. To restore it, put it into an empty folder as zest-bell.db, and run “npm run zest -- move --to URL” with ZEST_DATA naming that folder and URL an empty database; its mail is stopped until you start it in Course.`;
  }
  return `Saved as ${file}. Put it into an empty data folder as zest-bell.db to restore it; its mail is stopped until you start it in Course.`;
}

/** Exit 1 for a trouble of a source, which is in what is printed. */
async function connections(of: 'source' | 'platform', what: string | undefined, more: readonly string[]) {
  const [arg, ...rest] = more;
  const id = Number(arg);
  const isId = Number.isSafeInteger(id) && id > 0;
  const wants: Readonly<Record<string, boolean>> = {
    add: arg !== undefined,
    remove: isId,
    list: arg === undefined,
    ...(of === 'source' ? { pull: isId } : {}),
  };
  if (what === undefined || !Object.hasOwn(wants, what) || !wants[what] || rest.length > 0) throw new UsageError(USAGE);
  const on = await import('./connections.ts');
  const works = {
    source: {
      add: () => on.addFromFile(readJson(arg!)),
      pull: () => on.pullOne(id),
      remove: () => on.removeOne(id),
      list: () => on.listAll,
    },
    platform: {
      add: () => on.addPlatformFrom(readJson(arg!)),
      pull: () => on.listPlatforms,
      remove: () => on.removePlatformOf(id),
      list: () => on.listPlatforms,
    },
  };
  const work = works[of][what as 'add' | 'pull' | 'remove' | 'list']();
  try {
    const said = await on.onConnections(readConfig(process.env, process.cwd()), work);
    process.exitCode = said.code;
    return said.text;
  } catch (error) {
    if (error instanceof StartProblem) throw error;
    if (error instanceof z.ZodError)
      throw new UsageError(error.issues.map((i) => `${i.path.join('.')}: ${i.message}`).join('\n'));
    if (error instanceof AppError)
      throw new UsageError([error.message, ...error.problems.map((p) => `${p.path}: ${p.message}`)].join('\n'));
    throw new UsageError((error as Error).message);
  }
}

interface ConfirmOptions {
  readonly yes?: boolean | undefined;
}

/** What is printed is for the person at the machine: without a terminal that is said on purpose. */
function mustBeMeant({ yes }: ConfirmOptions, why: string): void {
  if (!yes && !process.stdout.isTTY) throw new UsageError(`${why} Without a terminal this needs --yes`);
}

async function account(
  what: string | undefined,
  [email, ...rest]: readonly string[],
  values: ConfirmOptions & { readonly administrator?: boolean | undefined },
): Promise<string> {
  const wants = what === 'list' ? email === undefined : email !== undefined;
  const isKnown = what !== undefined && ['list', 'add', 'reset-password', 'reset-factor'].includes(what);
  if (!isKnown || !wants || rest.length > 0) throw new UsageError(USAGE);
  if (what === 'add' || what === 'reset-password') mustBeMeant(values, 'It prints a link that sets a password.');
  const config = readConfig(process.env, process.cwd());
  const base = config.publicUrl ?? `http://${config.host}:${config.port}`;
  const [on, { onDatabase }] = await Promise.all([import('./accounts.ts'), import('./onDatabase.ts')]);
  return refusing(() =>
    onDatabase(config, ({ orm }) => {
      if (what === 'add') return on.addAccount(orm, email!, values.administrator === true, base);
      if (what === 'reset-password') return on.resetPassword(orm, email!, base);
      return what === 'reset-factor' ? on.resetFactor(orm, email!) : on.listAccounts(orm);
    }),
  );
}

async function secret(what: string | undefined, rest: readonly string[], values: ConfirmOptions): Promise<string> {
  if (what !== 'replace' || rest.length > 0) throw new UsageError(USAGE);
  const [on, { onDatabase }] = await Promise.all([import('./accounts.ts'), import('./onDatabase.ts')]);
  process.stderr.write(`${on.LOST_WITH_SECRET}\n`);
  if (!values.yes) throw new UsageError('Run it again with --yes to take the new secret', 1);
  const config = readConfig(process.env, process.cwd());
  return refusing(() => onDatabase(config, (db) => on.acceptSecret(db.orm, db.secret), { mustFit: false }));
}

/** A trouble is one sentence on standard error, and exit 1. */
async function refusing(work: () => Promise<string>): Promise<string> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof StartProblem) throw error;
    throw new UsageError((error as Error).message, 1);
  }
}

function readArgs(argv: readonly string[]) {
  try {
    return parseArgs({
      args: [...argv],
      allowPositionals: true,
      options: {
        rule: { type: 'string', multiple: true },
        administrator: { type: 'boolean' },
        yes: { type: 'boolean' },
        from: { type: 'string' },
        until: { type: 'string' },
        at: { type: 'string' },
        outcome: { type: 'string' },
        by: { type: 'string' },
        'by-group': { type: 'string' },
        kind: { type: 'string' },
        map: { type: 'string' },
        'as-of': { type: 'string' },
        add: { type: 'string' },
        items: { type: 'boolean' },
        match: { type: 'string' },
        out: { type: 'string' },
        to: { type: 'string' },
      },
    });
  } catch (error) {
    throw new UsageError(`${(error as Error).message}\n${USAGE}`);
  }
}

function readJson(file: string): unknown {
  try {
    return JSON.parse(readFileSync(file, 'utf8').replace(/^\uFEFF/, ''));
  } catch (error) {
    throw new UsageError(`: ${file} cannot be read as JSON (${(error as Error).message.split('\n')[0]})`);
  }
}

const readScenario = (file: string): Scenario => scenarioOf(readJson(file));

function scenarioOf(json: unknown): Scenario {
  const parsed = parseScenario(json);
  if (!parsed.ok) throw new UsageError(parsed.problems.map((p) => `${p.path}: ${p.message}`).join('\n'));
  return parsed.value;
}

/** Merges files into a scenario, all or none, and prints what each brought. */
async function importInto(
  scenarioFile: string,
  files: readonly string[],
  values: ReturnType<typeof readArgs>['values'],
): Promise<string> {
  const json = readJson(scenarioFile);
  scenarioOf(json);
  const draft = draftOf(json as ScenarioJson);
  const kind = IMPORT_KINDS.find((k) => k === values.kind);
  if (values.kind !== undefined && !kind) throw new UsageError(`--kind: Use one of ${IMPORT_KINDS.join(', ')}`);
  const told = values.map === undefined ? undefined : fieldMapOf(readJson(values.map));
  const asOf = instantOf('as-of', values['as-of']) ?? wallClock();
  const add = additionsOf(values.add);
  const reports: ImportedFile[] = [];
  for (const file of files) {
    try {
      reports.push(
        importFile(await openFile(basename(file), bytesOf(readFileSync(file))), draft, { kind, told, asOf, add }),
      );
    } catch (error) {
      throw new UsageError(`${file}: ${(error as Error).message}`, 1);
    }
  }
  if (values.out !== undefined) {
    const merged = draft.toScenario();
    scenarioOf(merged);
    writeFileSync(values.out, `${JSON.stringify(merged, null, 2)}\n`);
  }
  return JSON.stringify({ format: IMPORT_FORMAT, files: reports }, null, 2);
}

/** Writes the target with what was decided in the source, and prints what became of it. */
function carryInto(sourceFile: string, targetFile: string, values: ReturnType<typeof readArgs>['values']): string {
  if (values.out === undefined) throw new UsageError(`--out: Say where the new file goes.\n${USAGE}`);
  const source = readScenario(sourceFile);
  const targetJson = readJson(targetFile);
  const target = scenarioOf(targetJson);
  const withItems = values.items ?? false;
  if (withItems && target.course.items.length > 0)
    throw new UsageError('--items: Items come along only into a course that has none');
  const told = values.match === undefined ? {} : toldOf(readJson(values.match));
  const [wrong] = matchProblems(source.course.items, target.course.items, told);
  if (wrong) throw new UsageError(`--match: ${matchProblemWords(wrong)}`);
  const { report, merged } = carryScenario(source, target, targetJson, { told, withItems });
  scenarioOf(merged);
  writeFileSync(values.out, `${JSON.stringify(merged, null, 2)}\n`);
  return JSON.stringify(report, null, 2);
}

function toldOf(json: unknown): ConfirmedMatches {
  const told = z.record(z.string(), z.string().nullable()).safeParse(json);
  if (!told.success)
    throw new UsageError('--match: Write the target’s item of each of the source’s, as { "lab-3": "l3" }');
  return told.data;
}

/** Takes the data folder over into a database on a server. */
async function moveTo(url: string): Promise<string> {
  const [{ moveDatabase }, { sessionSecret }] = await Promise.all([
    import('./moving.ts'),
    import('../platform/process/dataFolder.ts'),
  ]);
  const { data, secret } = readConfig({ ...process.env, ZEST_DATABASE_URL: '' }, process.cwd());
  try {
    const { rows, to } = await moveDatabase(data, url);
    return `Moved ${rows} rows to the database “${to}”, and read each of them back. The folder ${data} starts no more.
Set these for every process:
ZEST_DATABASE_URL=${url}
ZEST_SECRET=${secret ?? sessionSecret(data)}`;
  } catch (error) {
    throw new UsageError((error as Error).message);
  }
}

/** “people”, “items”, or both: what the course lacks and the files bring. */
function additionsOf(text: string | undefined): { readonly people: boolean; readonly items: boolean } {
  const words = text === undefined ? [] : text.split(',').map((word) => word.trim());
  if (words.some((word) => word !== 'people' && word !== 'items'))
    throw new UsageError('--add: Write people, items, or people,items');
  return { people: words.includes('people'), items: words.includes('items') };
}

function fieldMapOf(json: unknown): Record<string, string> {
  const map = z.record(z.string(), z.string()).safeParse(json);
  if (!map.success) throw new UsageError('--map: Write the field of each column, as { "Student ID": "id" }');
  return map.data;
}

function rulesOf(scenario: Scenario, ids: readonly string[]): readonly Rule[] {
  const rules = chosenRules(scenario, ids);
  if ('unknown' in rules) throw new UsageError(`--rule: There is no rule “${rules.unknown}” in this file`);
  return rules;
}

function instantOf(option: string, text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  try {
    return parseInstant(text);
  } catch {
    throw new UsageError(`--${option}: Write an instant with its offset, as 2026-09-21T09:30:00-04:00`);
  }
}

try {
  process.stdout.write(`${await main(process.argv.slice(2))}\n`);
} catch (error) {
  if (!(error instanceof UsageError || error instanceof StartProblem)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exitCode = error instanceof UsageError ? error.code : 2;
}
