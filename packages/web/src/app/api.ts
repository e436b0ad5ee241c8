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

async function reach(method: string, path: string, type?: string, body?: string | Blob): Promise<Response> {
  const headers = { 'x-zest-bell': '1', ...(type === undefined ? {} : { 'content-type': type }) };
  try {
    return await fetch(`/api${path}`, { method, headers, ...(body === undefined ? {} : { body }) });
  } catch {
    throw new ApiProblem(0, { code: 'unreachable', title: 'Zest Bell cannot be reached. Is the server running?' });
  }
}

const send = (method: string, path: string, body?: unknown): Promise<Response> =>
  body === undefined ? reach(method, path) : reach(method, path, 'application/json', JSON.stringify(body));

async function answerOf<T>(res: Response): Promise<T> {
  if (res.status === 204) return undefined as T;
  const answer: unknown = await res.json().catch(() => ({}));
  if (!res.ok) throw new ApiProblem(res.status, answer as object);
  return answer as T;
}

async function request<T>(method: string, path: string, body?: unknown): Promise<T> {
  return answerOf<T>(await send(method, path, body));
}

export interface Download {
  readonly bytes: Blob;
  /** As the server names it. */
  readonly name: string;
}

export const api = {
  get: <T>(path: string) => request<T>('GET', path),
  post: <T>(path: string, body: unknown = {}) => request<T>('POST', path, body),
  put: <T>(path: string, body: unknown) => request<T>('PUT', path, body),
  delete: <T>(path: string) => request<T>('DELETE', path),
  upload: async <T>(path: string, bytes: Blob) =>
    answerOf<T>(await reach('POST', path, 'application/octet-stream', bytes)),
  async download(path: string, body: unknown): Promise<Download> {
    const res = await send('POST', path, body);
    if (!res.ok) return answerOf(res);
    const said = res.headers.get('content-disposition') ?? '';
    const encoded = /filename\*=UTF-8''([^;]+)/.exec(said)?.[1];
    const plain = /filename="?([^";]+)"?/.exec(said)?.[1];
    return { bytes: await res.blob(), name: encoded ? decodeURIComponent(encoded) : (plain ?? 'download') };
  },
};

/** What went wrong, in sentences: the title, and each problem that has no field of its own to stand beside. */
export function errorWords(error: unknown): string {
  if (!(error instanceof ApiProblem)) return error instanceof Error ? error.message : 'Something went wrong.';
  return [error.message, ...error.problems.map((p) => `${p.message}.`)].join(' ').replace(/\.\./g, '.');
}
