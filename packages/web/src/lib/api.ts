/** Talking to the server: JSON both ways, and every refusal as an error that names its fields. */
import { parse } from 'content-disposition';
import type { Problem } from '@zest-bell/core/problem';
import {
  API_BASE,
  urlOf,
  type AnswerOf,
  type AnyEndpoint,
  type BodyGiven,
  type PathGiven,
  type QueryGiven,
} from '@zest-bell/core/contract';

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
  const headers = new Headers(type === undefined ? {} : { 'content-type': type });
  const init = { method, headers, ...(body === undefined ? {} : { body }), ...(signal ? { signal } : {}) };
  try {
    return await fetch(`${API_BASE}${path}`, init);
  } catch (error) {
    if (signal?.aborted) throw error;
    throw new ApiProblem(0, {
      code: 'unreachable',
      title: 'Zest Bell cannot be reached. Check your connection, then try again.',
    });
  }
}

/** What a request takes beside its path. */
export interface RequestParts<E> {
  readonly body?: BodyGiven<E>;
  readonly query?: QueryGiven<E>;
  /** A file, where the contract takes one. */
  readonly upload?: Blob;
  readonly signal?: AbortSignal | undefined;
}

function send<E extends AnyEndpoint>(endpoint: E, path: PathGiven<E>, given: RequestParts<E>): Promise<Response> {
  const url = urlOf(endpoint, path, (given.query ?? {}) as Readonly<Record<string, string>>);
  const { signal } = given;
  if (given.upload)
    return reach(endpoint.method, url, { type: 'application/octet-stream', body: given.upload, signal });
  if (endpoint.method === 'GET' || endpoint.method === 'DELETE') return reach(endpoint.method, url, { signal });
  return reach(endpoint.method, url, { type: 'application/json', body: JSON.stringify(given.body ?? {}), signal });
}

async function answerOf<T>(res: Response): Promise<T> {
  if (res.status === 204) return undefined as T;
  const answer: unknown = await res.json().catch(() => ({}));
  if (!res.ok) throw new ApiProblem(res.status, answer as object);
  return answer as T;
}

/** A line of an answer that comes in lines: `share` says how much is done, 0 to 1. */
export type ProgressLine = Readonly<Record<string, unknown>> & { readonly share?: number };

export interface Download {
  readonly bytes: Blob;
  /** As the server names it. */
  readonly name: string;
}

const NOWHERE = {} as never;

/** Asks what the contract declares, and gives its answer. Throws `ApiProblem`. */
export async function ask<E extends AnyEndpoint>(
  endpoint: E,
  path: PathGiven<E> = NOWHERE,
  given: RequestParts<E> = {},
): Promise<AnswerOf<E>> {
  return answerOf<AnswerOf<E>>(await send(endpoint, path, given));
}

/** The same for packed columns. */
ask.bytes = async <E extends AnyEndpoint>(
  endpoint: E,
  path: PathGiven<E>,
  given: RequestParts<E> = {},
): Promise<ArrayBuffer> => {
  const res = await send(endpoint, path, given);
  return res.ok ? res.arrayBuffer() : answerOf(res);
};

/** The same for an answer in lines: what comes before the result goes to `onLine`. */
ask.lines = async <E extends AnyEndpoint>(
  endpoint: E,
  path: PathGiven<E>,
  given: RequestParts<E>,
  onLine: (line: ProgressLine) => void,
): Promise<AnswerOf<E>> => {
  const res = await send(endpoint, path, given);
  if (!res.ok || !res.body) return answerOf(res);
  const reader = res.body.pipeThrough(new TextDecoderStream()).getReader();
  // A line may come in very many pieces: they are joined once, when it is whole.
  let pieces: string[] = [];
  for (;;) {
    const { value, done } = await reader.read();
    if (done) throw new ApiProblem(500, { title: 'The answer broke off. Try again.' });
    const [first, ...more] = value.split('\n');
    pieces.push(first!);
    for (const next of more) {
      const told = JSON.parse(pieces.join('')) as ProgressLine;
      pieces = [next];
      if (told['problem'] !== undefined) throw new ApiProblem(500, told['problem'] as object);
      if (told['answer'] !== undefined) return told['answer'] as AnswerOf<E>;
      onLine(told);
    }
  }
};

/** The same for a file to be kept. */
ask.download = async <E extends AnyEndpoint>(
  endpoint: E,
  path: PathGiven<E>,
  given: RequestParts<E>,
): Promise<Download> => {
  const res = await send(endpoint, path, given);
  if (!res.ok) return answerOf(res);
  return { bytes: await res.blob(), name: fileNameOf(res.headers.get('content-disposition')) };
};

/** The name that an answer gives its file (RFC 6266). */
export const fileNameOf = (disposition: string | null): string =>
  (disposition === null ? undefined : parse(disposition).parameters['filename']) ?? 'download';

/** The address of what a link opens. */
export const linkTo = <E extends AnyEndpoint>(endpoint: E, path: PathGiven<E>): string =>
  `${API_BASE}${urlOf(endpoint, path)}`;

/** What went wrong, in sentences: the title, and each problem that has no field of its own to stand beside. */
export function errorWords(error: unknown): string {
  if (!(error instanceof ApiProblem)) return error instanceof Error ? error.message : 'Something went wrong.';
  return [error.message, ...error.problems.map((p) => `${p.message}.`)].join(' ').replace(/\.\./g, '.');
}
