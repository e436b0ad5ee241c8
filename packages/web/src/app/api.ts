/** Talking to the server: JSON both ways, and every refusal as an error that names its fields. */
import type { Problem } from '@zest-bell/core';

/** RFC 9457 problem details as the server sends them. */
export class ApiProblem extends Error {
  readonly code: string;
  readonly status: number;
  readonly problems: readonly Problem[];

  constructor(status: number, body: { title?: string; code?: string; problems?: readonly Problem[] }) {
    super(body.title ?? 'The server did not answer as expected.');
    this.code = body.code ?? 'unknown';
    this.status = status;
    this.problems = body.problems ?? [];
  }
}

async function request<T>(method: string, path: string, body?: unknown): Promise<T> {
  let res: Response;
  try {
    res = await fetch(`/api${path}`, {
      method,
      headers: { 'x-zest-bell': '1', ...(body === undefined ? {} : { 'content-type': 'application/json' }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  } catch {
    throw new ApiProblem(0, { code: 'unreachable', title: 'Zest Bell cannot be reached. Is the server running?' });
  }
  if (res.status === 204) return undefined as T;
  const answer: unknown = await res.json().catch(() => ({}));
  if (!res.ok) throw new ApiProblem(res.status, answer as object);
  return answer as T;
}

export const api = {
  get: <T>(path: string) => request<T>('GET', path),
  post: <T>(path: string, body: unknown = {}) => request<T>('POST', path, body),
  put: <T>(path: string, body: unknown) => request<T>('PUT', path, body),
  delete: <T>(path: string) => request<T>('DELETE', path),
};

/** What went wrong, in sentences: the title, and each problem that has no field of its own to stand beside. */
export function errorWords(error: unknown): string {
  if (!(error instanceof ApiProblem)) return error instanceof Error ? error.message : 'Something went wrong.';
  return [error.message, ...error.problems.map((p) => `${p.message}.`)].join(' ').replace(/\.\./g, '.');
}
