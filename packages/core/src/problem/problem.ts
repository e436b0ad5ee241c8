/** One thing in an input that does not fit, named by its path so that an interface can stand it beside the field. */
export interface Problem {
  /** `rules[0].when.all[1].item`; empty for the whole. */
  readonly path: string;
  /** Stable across releases, for programs. */
  readonly code: string;
  /** A sentence for the person who has to mend it. */
  readonly message: string;
}

/** What a parse gives: the value, or every problem found, never both. */
export type ParseResult<T> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problems: readonly Problem[] };

/** Joins path parts as JavaScript would write them: `a`, `[0]`, `b` → `a[0].b`. */
export function joinPath(base: string, ...parts: readonly PropertyKey[]): string {
  return parts.reduce<string>((path, part) => {
    if (typeof part === 'number') return `${path}[${part}]`;
    const name = String(part);
    return path === '' ? name : `${path}.${name}`;
  }, base);
}

interface IssueLike {
  readonly path: readonly PropertyKey[];
  readonly code?: string | undefined;
  readonly message: string;
  readonly keys?: readonly string[];
}

/** Turns Zod's issues into problems; an unknown key is a problem at that key's own path. */
export function problemsOfIssues(issues: readonly IssueLike[], base = ''): Problem[] {
  return issues.flatMap((issue) => {
    const path = joinPath(base, ...issue.path);
    if (issue.code === 'unrecognized_keys' && issue.keys) {
      return issue.keys.map((key) => ({
        path: joinPath(path, key),
        code: 'unknownKey',
        message: `“${key}” is not known here`,
      }));
    }
    return [{ path, code: issue.code ?? 'invalid', message: issue.message }];
  });
}

/** Marks a branch that the types say cannot be reached; an unknown kind fails loudly here. */
export function assertNever(x: never): never {
  throw new Error(`Unhandled kind: ${JSON.stringify(x)}`);
}
