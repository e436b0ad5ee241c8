/** Replays and rehearses scenario files without a server, and backs the database up: problems go to standard error. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import {
  chosenRules,
  parseInstant,
  parseScenario,
  rehearseScenario,
  replayScenario,
  type Rule,
  type Scenario,
} from '@zest-bell/core';
import { readConfig, StartProblem } from '../platform/config.ts';

const USAGE = `zest replay FILE [--rule ID]… [--from INSTANT] [--until INSTANT]
zest rehearse FILE --rule ID --at INSTANT
zest backup FILE`;

/** What the caller has to mend; every line goes to standard error. */
class Refusal extends Error {}

async function main(argv: readonly string[]): Promise<string> {
  const { positionals, values } = readArgs(argv);
  const [command, file, ...more] = positionals;
  if (command === 'backup' && file !== undefined && more.length === 0) return backUpTo(file);
  if ((command !== 'replay' && command !== 'rehearse') || file === undefined || more.length > 0)
    throw new Refusal(USAGE);
  const scenario = readScenario(file);
  const rules = rulesOf(scenario, values.rule ?? []);
  if (command === 'replay') {
    const span = { from: instantOf('from', values.from), until: instantOf('until', values.until) };
    return JSON.stringify(replayScenario(scenario, rules, span), null, 2);
  }
  const at = instantOf('at', values.at);
  if (at === undefined || values.rule?.length !== 1)
    throw new Refusal(`A rehearsal needs one --rule and --at.\n${USAGE}`);
  return JSON.stringify(rehearseScenario(scenario, rules, at), null, 2);
}

/** Copies the database of the data folder that the server's own settings name. */
async function backUpTo(file: string): Promise<string> {
  // Only here: the database's library takes longer to load than a replay takes.
  const { backUp } = await import('../backup.ts');
  const database = join(readConfig(process.env, process.cwd()).data, 'zest-bell.db');
  try {
    await backUp(database, file, Date.now());
  } catch (error) {
    throw new Refusal((error as Error).message);
  }
  return `Saved as ${file}. Put it into an empty data folder as zest-bell.db to restore it; its mail is stopped until you start it in Course.`;
}

function readArgs(argv: readonly string[]) {
  try {
    return parseArgs({
      args: [...argv],
      allowPositionals: true,
      options: {
        rule: { type: 'string', multiple: true },
        from: { type: 'string' },
        until: { type: 'string' },
        at: { type: 'string' },
      },
    });
  } catch (error) {
    throw new Refusal(`${(error as Error).message}\n${USAGE}`);
  }
}

function readScenario(file: string): Scenario {
  let json: unknown;
  try {
    json = JSON.parse(readFileSync(file, 'utf8').replace(/^\uFEFF/, ''));
  } catch (error) {
    throw new Refusal(`: ${file} cannot be read as JSON (${(error as Error).message.split('\n')[0]})`);
  }
  const parsed = parseScenario(json);
  if (!parsed.ok) throw new Refusal(parsed.problems.map((p) => `${p.path}: ${p.message}`).join('\n'));
  return parsed.value;
}

function rulesOf(scenario: Scenario, ids: readonly string[]): readonly Rule[] {
  const rules = chosenRules(scenario, ids);
  if ('unknown' in rules) throw new Refusal(`--rule: There is no rule “${rules.unknown}” in this file`);
  return rules;
}

function instantOf(option: string, text: string | undefined): number | undefined {
  if (text === undefined) return undefined;
  try {
    return parseInstant(text);
  } catch {
    throw new Refusal(`--${option}: Write an instant with its offset, as 2026-09-21T09:30:00-04:00`);
  }
}

try {
  process.stdout.write(`${await main(process.argv.slice(2))}\n`);
} catch (error) {
  if (!(error instanceof Refusal || error instanceof StartProblem)) throw error;
  process.stderr.write(`${error.message}\n`);
  process.exitCode = 2;
}
