/** An error as it is logged: a statement of SQL has its values in its text, which may be anybody's words or a password's hash. */
import { DriverException } from '@mikro-orm/core';
import { stdSerializers } from 'pino';

/** What a database says stands behind the statement. */
const SAID = /(?:^| - )((?:SQLITE_[A-Z_]+|[a-zA-Z ]+)(?:: [^\n]*)?)$/;
const TABLE = /\b(?:into|update|from|table)\s+[`"]?(\w+)/i;

export function withoutValues(error: unknown): unknown {
  if (!(error instanceof DriverException)) return error instanceof Error ? stdSerializers.err(error) : error;
  const { name, message } = error;
  // PostgreSQL quotes values in its sentences: its code says what is wrong.
  const said = 'severity' in error ? '' : (SAID.exec(message)?.[1] ?? '');
  return { type: name, code: String(error.code ?? ''), table: TABLE.exec(message)?.[1] ?? null, message: said };
}
