/** Talking to the server: JSON both ways, and every refusal as an error that names its fields. */
import type { Problem } from '@zest-bell/core';

/** RFC 9457 problem details as the server sends them. */
export class ApiProblem extends Error {
  readonly code: string;
  readonly status: number;
  readonly problems: readonly Problem[];

  /** Whether the server only has too much to do: the same is well asked again in a moment. */
  get passes(): boolean {
    return this.code === 'tooMuchAtOnce' || this.code === 'busy';
  }

  constructor(status: number, body: { title?: string; code?: string; problems?: readonly Problem[] }) {
    super(body.title ?? 'The server gave an answer that this page does not understand. Reload the page.');
    this.code = body.code ?? 'unknown';
    this.status = status;
    this.problems = body.problems ?? [];
  }
}

interface Request {
  readonly type?: string;
  readonly body?: string | Blob;
  /** Ends it when nobody waits for its answer any more. */
  readonly signal?: AbortSignal | undefined;
}

async function reach(method: string, path: string, { type, body, signal }: Request = {}): Promise<Response> {
  const headers = { 'x-zest-bell': '1', ...(type === undefined ? {} : { 'content-type': type }) };
  const init = { method, headers, ...(body === undefined ? {} : { body }), ...(signal ? { signal } : {}) };
  try {
    return await fetch(`/api${path}`, init);
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new ApiProblem(0, {
      code: 'unreachable',
      title: 'Zest Bell cannot be reached. Check your connection, then try again.',
    });
  }
}

const send = (method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<Response> =>
  reach(method, path, {
    ...(body === undefined ? {} : { type: 'application/json', body: JSON.stringify(body) }),
    signal,
  });

async function answerOf<T>(res: Response): Promise<T> {
  if (res.status === 204) return undefined as T;
  const answer: unknown = await res.json().catch(() => ({}));
  if (!res.ok) throw new ApiProblem(res.status, answer as object);
  return answer as T;
}

async function request<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  return answerOf<T>(await send(method, path, body, signal));
}

/** A line of an answer that comes in lines: `share` says how much is done, 0 to 1. */
export type Told = Readonly<Record<string, unknown>> & { readonly share?: number };

export interface Download {
  readonly bytes: Blob;
  /** As the server names it. */
  readonly name: string;
}

export const api = {
  get: <T>(path: string, signal?: AbortSignal) => request<T>('GET', path, undefined, signal),
  bytes: async (path: string): Promise<ArrayBuffer> => {
    const res = await reach('GET', path);
    return res.ok ? res.arrayBuffer() : answerOf(res);
  },
  post: <T>(path: string, body: unknown = {}, signal?: AbortSignal) => request<T>('POST', path, body, signal),
  /** An answer in lines: what comes before the result goes to `onLine`. */
  async lines<T>(path: string, body: unknown, signal: AbortSignal, onLine: (line: Told) => void): Promise<T> {
    const res = await send('POST', path, body, signal);
    if (!res.ok || !res.body) return answerOf<T>(res);
    const reader = res.body.pipeThrough(new TextDecoderStream()).getReader();
    // A line may come in very many pieces: they are joined once, when it is whole.
    let pieces: string[] = [];
    for (;;) {
      const { value, done } = await reader.read();
      if (done) throw new ApiProblem(500, { title: 'The answer broke off. Try again.' });
      const [first, ...more] = value.split('\n');
      pieces.push(first!);
      for (const next of more) {
        const told = JSON.parse(pieces.join('')) as Told;
        pieces = [next];
        if (told['problem'] !== undefined) throw new ApiProblem(500, told['problem'] as object);
        if (told['answer'] !== undefined) return told['answer'] as T;
        onLine(told);
      }
    }
  },
  put: <T>(path: string, body: unknown) => request<T>('PUT', path, body),
  delete: <T>(path: string) => request<T>('DELETE', path),
  upload: async <T>(path: string, bytes: Blob) =>
    answerOf<T>(await reach('POST', path, { type: 'application/octet-stream', body: bytes })),
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
