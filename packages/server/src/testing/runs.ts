/** A program that runs beside the test. */
import { spawn } from 'node:child_process';

/** Runs it to its end, and returns what it printed. Throws that where it does not end with 0. */
export function runs(program: string, args: readonly string[], env: Readonly<Record<string, string>>): Promise<string> {
  return new Promise((resolve, reject) => {
    const child = spawn(program, args, { env: { ...process.env, ...env } });
    let said = '';
    child.stdout.on('data', (some: Buffer) => (said += some.toString()));
    child.stderr.on('data', (some: Buffer) => (said += some.toString()));
    child.once('error', reject);
    child.once('close', (code) => (code === 0 ? resolve(said) : reject(new Error(`${code}: ${said}`))));
  });
}
