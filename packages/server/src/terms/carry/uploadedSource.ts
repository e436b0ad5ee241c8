/** Rules that come as a file: read strictly, kept for a while, and carried over from like a course. */
import { parseRulesFile, type DecidedFile } from '@zest-bell/core/exports';
import type { CarryFile } from '@zest-bell/core/exchange';
import type { Instant } from '@zest-bell/core/time';
import { idOf } from '../../access/pathIds.ts';
import type { Problem } from '@zest-bell/core/problem';
import { fileKey } from '../../wording/files/repository.ts';
import { kindOf } from '../../wording/files/kinds.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em, Tx } from '../../platform/database/orm.ts';
import { RulesFileRow, rulesFileHolds } from '../../rules/carried.ts';
import type { CarrySource } from './sides.ts';
import { insertRow, removeRows } from '../../platform/database/writing.ts';

/** The latest are kept: a file is soon brought again. */
const KEPT = 5;

/** Throws `fileUnreadable` with what does not fit, each at its path. */
export function readRulesFile(bytes: unknown): object {
  let json: unknown;
  try {
    json = JSON.parse(Buffer.isBuffer(bytes) ? bytes.toString('utf8').replace(/^\uFEFF/, '') : '');
  } catch {
    const message = 'It is not JSON. Export the rules again';
    throw new AppError('fileUnreadable', [{ path: 'file', code: 'json', message }]);
  }
  const parsed = parseRulesFile(json);
  const problems = parsed.ok ? unsoundFiles(parsed.value) : parsed.problems.slice(0, 20);
  if (problems.length > 0) throw new AppError('fileUnreadable', problems);
  return json as object;
}

/** What goes along comes from outside: it is what a message may carry, and what its id says. */
const unsoundFiles = ({ files }: DecidedFile): Problem[] =>
  files.flatMap(({ id, name, bytes }, i): Problem[] => {
    const content = Buffer.from(bytes, 'base64');
    const kind = kindOf(name, content);
    const why =
      typeof kind === 'string'
        ? kind
        : fileKey(content) === id
          ? null
          : 'Its content does not match its format. Export the rules again';
    return why === null ? [] : [{ path: `files[${i}]`, code: 'fileRefused', message: `“${name}”: ${why}` }];
  });

export async function keepRulesFile(
  tx: Tx<'course'>,
  course: number,
  name: string,
  document: object,
  at: Instant,
): Promise<CarryFile> {
  const row = await insertRow(tx, rulesFileHolds, { course, name, document, at });
  const all = await tx.find(RulesFileRow, { course }, { orderBy: { id: 'desc' } });
  await removeRows(tx, rulesFileHolds, { course, id: { $in: all.slice(KEPT).map((old) => old.id) } });
  return fileAnswer(row);
}

export async function rulesFilesOf(em: Em, course: number): Promise<CarryFile[]> {
  const rows = await em.find(RulesFileRow, { course }, { orderBy: { id: 'desc' }, disableIdentityMap: true });
  return rows.map(fileAnswer);
}

function fileAnswer({ id, name, document, at }: RulesFileRow): CarryFile {
  const { code, title } = (document as { course: { code: string; title: string } }).course;
  return { from: `file-${id}`, name, code, title, at };
}

/** Throws `notFound`: another course’s, or gone. */
export async function uploadedSource(em: Em, course: number, from: string): Promise<CarrySource> {
  const row = await em.findOne(RulesFileRow, { course, id: idOf(from.slice('file-'.length)) });
  const parsed = row && parseRulesFile(row.document);
  if (!parsed?.ok) throw new AppError('notFound');
  const { value } = parsed;
  return {
    course: null,
    decided: { course: value.course, rules: value.rules, wordings: value.wordings, views: [] },
    sender: null,
    file: (_em, key) => Promise.resolve(fileIn(value, key)),
  };
}

function fileIn({ files }: DecidedFile, key: string) {
  const file = files.find((f) => f.id === key);
  return file ? { name: file.name, type: file.type, bytes: Buffer.from(file.bytes, 'base64') } : null;
}
