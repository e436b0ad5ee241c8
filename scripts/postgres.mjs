// A throw-away PostgreSQL: for tests, measurements and the migrations of that dialect. Debian's server comes by
// apt when it is missing.
import { spawnSync } from 'node:child_process';
import { chownSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statfsSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { apt } from './steps.mjs';

const VERSIONS = '/usr/lib/postgresql';

/** The folder with the newest server's programs, or null. */
function programs() {
  if (!existsSync(VERSIONS)) return null;
  const all = readdirSync(VERSIONS)
    .filter((v) => Number(v) >= 15 && existsSync(join(VERSIONS, v, 'bin/initdb')))
    .sort((a, b) => Number(a) - Number(b));
  return all.length === 0 ? null : join(VERSIONS, all.at(-1), 'bin');
}

export function installPostgres() {
  if (!programs()) apt('postgresql', 'PostgreSQL');
}

/** The server refuses to run as root: then it runs as the user that Debian makes for it. */
function as(folder, command, args) {
  const bin = join(programs(), command);
  const isRoot = process.getuid?.() === 0;
  const [program, more] = isRoot
    ? ['setpriv', ['--reuid=postgres', '--regid=postgres', '--clear-groups', bin, ...args]]
    : [bin, args];
  const done = spawnSync(program, more, {
    stdio: ['ignore', 'ignore', 'pipe'],
    env: { ...process.env, HOME: folder },
    cwd: folder,
  });
  if (done.status !== 0) throw new Error(`${command}: ${String(done.stderr ?? done.error)}`);
}

/** What a throw-away cluster need not do: it may be lost with the machine. */
const CARELESS = [
  'fsync=off',
  'synchronous_commit=off',
  'full_page_writes=off',
  'wal_level=minimal',
  'max_wal_senders=0',
  'autovacuum=off',
];

/** Of a cluster's processes, those that have ended included: its first one counts its children. */
function processorTimeOf(data) {
  const [first] = readFileSync(join(data, 'postmaster.pid'), 'utf8').split('\n');
  const living = spawnSync('ps', ['-o', 'pid=', '--ppid', first]).stdout.toString().trim().split(/\s+/).filter(Boolean);
  const ticksOf = (pid, from, count) =>
    readFileSync(`/proc/${pid}/stat`, 'utf8')
      .replace(/^.*\) /, '')
      .split(' ')
      .slice(from, from + count)
      .reduce((sum, n) => sum + Number(n), 0);
  const ticks = living.reduce((sum, pid) => sum + ticksOf(pid, 11, 2), ticksOf(first, 11, 4));
  return ticks / 100;
}

/** In memory where there is room for many small databases. */
function quickFolder() {
  if (!existsSync('/dev/shm')) return tmpdir();
  const { bavail, bsize } = statfsSync('/dev/shm');
  return bavail * bsize > 3 * 2 ** 30 ? '/dev/shm' : tmpdir();
}

/**
 * Starts one on a Unix socket in a folder of its own. `durable` keeps what a real one keeps through a crash of its machine.
 * `url(database)` is the address of one of its databases.
 */
export function startPostgres({ durable = false, connections = 120 } = {}) {
  const folder = mkdtempSync(join(durable ? tmpdir() : quickFolder(), 'zb-pg-'));
  if (process.getuid?.() === 0) {
    const [, uid, gid] = /^postgres:[^:]*:(\d+):(\d+)/.exec(
      spawnSync('getent', ['passwd', 'postgres']).stdout.toString(),
    );
    chownSync(folder, Number(uid), Number(gid));
  }
  const data = join(folder, 'data');
  as(folder, 'initdb', [
    '-D',
    data,
    '-U',
    'app',
    '-A',
    'trust',
    '-E',
    'UTF8',
    '--locale=C.UTF-8',
    '--no-sync',
    '--no-instructions',
  ]);
  const settings = [
    `unix_socket_directories=${folder}`,
    "listen_addresses=''",
    'shared_buffers=128MB',
    `max_connections=${connections}`,
    'timezone=UTC',
    ...(durable ? [] : CARELESS),
  ];
  const start = () =>
    as(folder, 'pg_ctl', [
      '-D',
      data,
      '-l',
      join(folder, 'log'),
      '-w',
      '-t',
      '60',
      '-o',
      settings.map((s) => `-c ${s}`).join(' '),
      'start',
    ]);
  const stop = (how = 'immediate') => as(folder, 'pg_ctl', ['-D', data, '-m', how, '-w', 'stop']);
  start();
  return {
    folder,
    url: (database = 'postgres') => `postgresql://app@/${database}?host=${folder}`,
    /** What all of its processes have taken of the processor, in seconds (proc(5)). */
    processorTime: () => processorTimeOf(data),
    /** Stops it at once, as a crash would, and starts it again. */
    restart() {
      stop();
      start();
    },
    end() {
      stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
