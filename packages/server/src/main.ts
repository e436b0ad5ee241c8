/** The server as a process: its settings are the environment, a signal stops it, and what keeps it from starting is told in a sentence. */
import { isUnreachable } from './platform/database/whenFree.ts';
import { readConfig, StartProblem } from './platform/process/config.ts';
import { keepToOneself } from './platform/process/dataFolder.ts';
import { DamagedDatabase } from './wiring/database.ts';
import { start } from './start.ts';

/** For how long a stop may wait for what is on its way, in ms. */
const STOPS_WITHIN = 10_000;

const DATABASE_WENT =
  'Zest Bell lost its database while it was starting. See whether the database runs, then start it again.';

keepToOneself();
// What Node.js prints itself is no JSON line: the server's log has it.
process.removeAllListeners('warning');
try {
  const say = (sentence: string) => void process.stdout.write(`${sentence}\n`);
  const { address, stop } = await start(readConfig(process.env, process.cwd()), say);
  let isEnding = false;
  const end = () => {
    // A shell and npm may pass one signal on twice: a second one does not cut the stop short.
    if (isEnding) return;
    isEnding = true;
    setTimeout(() => process.exit(1), STOPS_WITHIN).unref();
    void stop().then(() => process.exit(0));
  };
  process.on('SIGTERM', end);
  process.on('SIGINT', end);
  // `npm start` bundles the interface in the meantime.
  await (globalThis as { readonly zestBellInterface?: Promise<void> }).zestBellInterface;
  // Last, so that a signal from somebody who waited for this sentence is a clean stop.
  say(`Zest Bell is ready at ${address}`);
} catch (error) {
  const isTold = error instanceof StartProblem || error instanceof DamagedDatabase;
  if (!isTold && !isUnreachable(error)) throw error;
  process.stderr.write(`\n${isTold ? error.message : DATABASE_WENT}\n\n`);
  process.exit(2);
}
