/**
 * An error as it is logged. A statement of SQL carries its values in its text, which may be a student's name, a whole message or a
 * password's hash: whatever class an error has, and however deep it is the cause of another, statements and values stay out.
 */

/** An error that begins with a statement, as the query library words it: `insert into … - what the database says`. */
const STATEMENT =
  /^\s*(?:insert|update|delete|select|with|alter|create|drop|begin|commit|rollback|savepoint|release)\b/i;
/** What the database says behind the statement, where that quotes no values. */
const SAID = / - ((?:SQLITE_[A-Z_]+|[A-Za-z ]+)(?:: [A-Za-z0-9_ .,]*)?)$/;
const TABLE = /\b(?:into|update|from|table)\s+[`"]?(\w+)/i;
/** Causes of causes that are followed. */
const DEEPEST = 5;

export interface LoggedError {
  readonly type: string;
  readonly message: string;
  readonly code?: string;
  readonly table?: string | null;
  readonly stack?: string;
  readonly cause?: unknown;
}

export function withoutValues(error: unknown, depth = 0): unknown {
  if (!(error instanceof Error)) return typeof error === 'string' && STATEMENT.test(error) ? 'a statement' : error;
  const { name, message, stack = '', cause } = error;
  const code = 'code' in error && typeof error.code === 'string' ? { code: error.code } : {};
  const about = { type: error.constructor.name === 'Error' ? name : error.constructor.name, ...code };
  // PostgreSQL quotes values in its own sentences as well; its code says what is wrong.
  const quotes = 'severity' in error && typeof error.severity === 'string';
  const isStatement = STATEMENT.test(message);
  const logged: LoggedError = {
    ...about,
    message: quotes ? '' : isStatement ? (SAID.exec(message)?.[1] ?? '') : message,
    ...(isStatement || quotes ? { table: TABLE.exec(message)?.[1] ?? null } : {}),
    // Frames alone: the first lines of a stack repeat the message.
    stack: stack
      .split('\n')
      .filter((line) => /^\s+at /.test(line))
      .join('\n'),
    ...(cause === undefined || depth >= DEEPEST ? {} : { cause: withoutValues(cause, depth + 1) }),
  };
  return logged.message === '' ? { ...logged, message: 'A statement failed' } : logged;
}
