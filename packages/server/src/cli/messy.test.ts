/** The messy sheets of `examples/import/messy`, each through the command line into an empty course: what `gives.json` says it gives. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { ImportedFile } from '@zest-bell/core/imports';

const root = fileURLToPath(new URL('../../../..', import.meta.url));
const messy = join(root, 'examples', 'import', 'messy');
const out = mkdtempSync(join(tmpdir(), 'zest-bell-messy-'));
afterAll(() => rmSync(out, { recursive: true, force: true }));

/** As a person runs it, by npm, which builds what is not built. */
beforeAll(() => void spawnSync('npm', ['run', '--silent', 'zest'], { cwd: root }));

interface CommandAnswer {
  readonly about: string;
  readonly [more: string]: unknown;
}
const gives = JSON.parse(readFileSync(join(messy, 'gives.json'), 'utf8')) as Readonly<Record<string, CommandAnswer>>;

interface WrittenScenario {
  readonly people: readonly { id: string; firstName: string; lastName: string; email?: string; section?: string }[];
  readonly items: readonly {
    kind: string;
    title: string;
    group?: string;
    points?: number;
    excused?: readonly string[];
  }[];
  readonly grades: readonly { person: string; item: string; points: number }[];
  readonly events: readonly { person: string; kind: string; item?: string; at: string }[];
}

function imported(file: string): { readonly report: ImportedFile; readonly course: WrittenScenario } {
  const into = join(out, `${file}.json`);
  const args = ['import', join(messy, 'course.json'), join(messy, file), '--as-of', '2026-10-26T08:00:00-04:00'];
  const run = spawnSync(
    process.execPath,
    ['packages/server/dist/cli/zest.js', ...args, '--add', 'people,items', '--out', into],
    { cwd: root, encoding: 'utf8', env: { ...process.env, NODE_OPTIONS: '' } },
  );
  expect({ code: run.status, err: run.stderr }).toEqual({ code: 0, err: '' });
  const { files } = JSON.parse(run.stdout) as { files: readonly ImportedFile[] };
  return { report: files[0]!, course: JSON.parse(readFileSync(into, 'utf8')) as WrittenScenario };
}

const words = (...parts: readonly (string | false | undefined)[]): string => parts.filter(Boolean).join(' ');

function said({ report, course }: ReturnType<typeof imported>) {
  const { kind, read, leftOut = 0, doubts, refused } = report;
  return {
    kind,
    read,
    leftOut,
    doubts,
    refused: refused.map((r) => `${r.line} ${r.column} ${r.code}`),
    people: course.people.map((p) =>
      [`${p.firstName} ${p.lastName}`, p.email ?? p.id, p.section].filter(Boolean).join(', '),
    ),
    items: course.items.map((i) =>
      words(
        ...[i.kind, i.title, i.group && `in ${i.group}`, i.points !== undefined && `of ${i.points}`],
        i.excused && i.excused.length > 0 && `excused ${i.excused.join(', ')}`,
      ),
    ),
    grades: course.grades.map((g) => `${g.person} ${g.item} ${g.points}`),
    events: course.events.map((e) => `${e.person} ${e.kind} ${e.item ?? ''} ${e.at.slice(0, 16)}`),
  };
}

test('there are twenty of them, and each says what it must give', () => {
  const files = readdirSync(messy).filter((name) => /\.(xlsx|csv)$/.test(name));
  expect(files).toHaveLength(20);
  expect(files.sort()).toEqual(Object.keys(gives).sort());
});

test.each(Object.entries(gives).map(([file, given]) => [file, given.about]))('%s: %s', (file) => {
  const { about: _about, ...given } = gives[file]!;
  expect(said(imported(file))).toEqual(given);
});
