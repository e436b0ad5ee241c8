/** Replaces the network: answers by method and path, keeps what was asked, and fails on requests without an answer. */
import { jest } from '@jest/globals';

export interface RecordedRequest {
  readonly method: string;
  readonly path: string;
  readonly body: unknown;
}

/** A body, a refusal, or what makes one of what was asked. */
type FakeAnswers = Readonly<Record<string, unknown>>;

/** What is answered with another status than 200. */
export class FakeRefusal {
  readonly status: number;
  readonly problem: object;

  constructor(status: number, problem: object) {
    this.status = status;
    this.problem = problem;
  }
}

const PREFIX = '/api/v1';

/** Keys are like "PUT /courses/1/limits"; a query is no part of them. */
export function network(answers: FakeAnswers): RecordedRequest[] {
  const asked: RecordedRequest[] = [];
  globalThis.fetch = jest.fn((url: string, init: RequestInit = {}) => {
    const path = url.slice(PREFIX.length).replace(/\?.*$/, '');
    const given = typeof init.body === 'string' ? (JSON.parse(init.body) as unknown) : null;
    const one = { method: init.method ?? 'GET', path, body: given };
    asked.push(one);
    const key = `${one.method} ${path}`;
    if (!(key in answers)) return Promise.reject(new Error(`Nobody answers ${key}`));
    const found = answers[key];
    const answer = typeof found === 'function' ? (found as (asked: RecordedRequest) => unknown)(one) : found;
    const refused = answer instanceof FakeRefusal;
    return Promise.resolve({
      ok: !refused,
      status: refused ? answer.status : answer === undefined ? 204 : 200,
      json: () => Promise.resolve(refused ? answer.problem : answer),
    });
  }) as unknown as typeof fetch;
  return asked;
}
