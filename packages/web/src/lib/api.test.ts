import { afterEach, describe, expect, jest, test } from '@jest/globals';
import { contract } from '@zest-bell/core/contract';
import { ApiProblem, ask, errorWords, fileNameOf, linkTo } from './api.ts';
import { mayAskAgain } from './queries.ts';

type FetchCall = { url: string; init: RequestInit };
const calls: FetchCall[] = [];

/** Replaces the network: answers with a status and a body. */
function answer(status: number, body: unknown): void {
  globalThis.fetch = jest.fn((url: string, init: RequestInit) => {
    calls.push({ url, init });
    return Promise.resolve({
      ok: status < 400,
      status,
      json: () => (body === undefined ? Promise.reject(new Error('no body')) : Promise.resolve(body)),
    });
  }) as unknown as typeof fetch;
}
afterEach(() => void calls.splice(0));

describe('a request', () => {
  test('carries the page’s own header, and a body as JSON', async () => {
    answer(200, { fine: true });
    expect(await ask(contract.access.signIn, {}, { body: { email: 'a', password: 'b' } })).toEqual({ fine: true });
    expect(calls[0]!.url).toBe('/api/v1/session');
    expect(Object.fromEntries(calls[0]!.init.headers as Headers)).toEqual({ 'content-type': 'application/json' });
    expect(calls[0]!.init.body).toBe('{"email":"a","password":"b"}');
  });

  test('fills the names of its path and its query, whatever they say', async () => {
    answer(204, undefined);
    await ask(contract.desk.removeNote, { course: 3, student: 'a/b?c', note: 7 });
    await ask(contract.intake.changes, { course: 3 }, { query: { before: undefined } });
    await ask(contract.mail.log, { course: 3 }, { query: { search: 'a&b', take: 20 } });
    expect(calls.map((c) => c.url)).toEqual([
      '/api/v1/courses/3/students/a%2Fb%3Fc/notes/7',
      '/api/v1/courses/3/changes',
      '/api/v1/courses/3/log?search=a%26b&take=20',
    ]);
    expect(linkTo(contract.mail.sheetFile, { course: 3, sheet: 4 })).toBe('/api/v1/courses/3/sheets/4/file');
  });

  test('that came while the server had too much to do is asked again for a while; a refusal is not', () => {
    const busy = new ApiProblem(429, { code: 'tooMuchAtOnce' });
    expect([0, 59, 60].map((count) => mayAskAgain(count, busy))).toEqual([true, true, false]);
    expect(mayAskAgain(0, new ApiProblem(400, { code: 'invalidInput' }))).toBe(false);
    expect([1, 2].map((count) => mayAskAgain(count, new ApiProblem(500, {})))).toEqual([true, false]);
  });

  test('that nobody waits for any more ends, and is no trouble of the server', async () => {
    const gone = new AbortController();
    gone.abort();
    const aborted = new DOMException('Gone', 'AbortError');
    globalThis.fetch = jest.fn(() => Promise.reject(aborted));
    await expect(ask(contract.desk.clock, {}, { signal: gone.signal })).rejects.toHaveProperty('name', 'AbortError');
  });

  test('that is refused is an error with the fields that are at fault', async () => {
    answer(400, {
      title: 'Some of it does not fit.',
      code: 'invalidInput',
      problems: [{ path: 'name', message: 'Type it' }],
    });
    const error = await ask(contract.desk.clock).catch((e: unknown) => e as ApiProblem);
    expect(error).toBeInstanceOf(ApiProblem);
    expect(error).toMatchObject({ status: 400, code: 'invalidInput', problems: [{ path: 'name' }] });
    expect(errorWords(error)).toBe('Some of it does not fit. Type it.');
  });

  test('without an answer says that the server cannot be reached', async () => {
    globalThis.fetch = () => Promise.reject(new TypeError('network'));
    const error = await ask(contract.access.signOut).catch((e: unknown) => e as ApiProblem);
    expect(errorWords(error)).toBe('Zest Bell cannot be reached. Check your connection, then try again.');
  });

  test('that fails without a word still says something', async () => {
    answer(500, undefined);
    const error = await ask(contract.access.digest, {}, { body: { digest: 'off' } }).catch((e: unknown) => e);
    expect(errorWords(error)).toBe('The server gave an answer that this page does not understand. Reload the page.');
    expect(errorWords('odd')).toBe('Something went wrong.');
  });
});

describe('an answer in lines', () => {
  /** Comes in these pieces, wherever they break. */
  function pieces(...all: string[]): void {
    globalThis.TextDecoderStream ??= class {} as unknown as typeof TextDecoderStream;
    const read = () => {
      const value = all.shift();
      return Promise.resolve({ value, done: value === undefined });
    };
    globalThis.fetch = jest.fn(() =>
      Promise.resolve({ ok: true, body: { pipeThrough: () => ({ getReader: () => ({ read }) }) } }),
    ) as unknown as typeof fetch;
  }
  const askLines = async () => {
    const told: object[] = [];
    const answered = await ask.lines(contract.rounds.replay, { course: 1 }, {}, (line) => told.push(line));
    return { told, answered };
  };

  test('is read line by line, however it is cut, up to its result', async () => {
    pieces('{"share":0.', '5}\n{"varied":{"value":3}}\n{"ans', 'wer":[1,', '2]}\n', 'never read');
    expect(await askLines()).toEqual({ told: [{ share: 0.5 }, { varied: { value: 3 } }], answered: [1, 2] });
  });

  test('may end in trouble, or break off', async () => {
    pieces('{"share":0.1}\n', '{"problem":{"title":"Too much at once.","code":"tooMuchAtOnce"}}\n');
    await expect(askLines()).rejects.toMatchObject({ code: 'tooMuchAtOnce', passes: true });
    pieces('{"share":0.1}\n{"answer"');
    await expect(askLines()).rejects.toThrow(/broke off/);
  });

  test('that is refused at once is an error like any other', async () => {
    answer(400, { title: 'Some of it does not fit.', code: 'invalidInput' });
    await expect(askLines()).rejects.toMatchObject({ status: 400, code: 'invalidInput' });
  });
});

// RFC 6266 §5, “Examples”, but for the last three: typed from memory of the specification.
test.each([
  ['Attachment; filename=example.html', 'example.html'],
  ['INLINE; FILENAME= "an example.html"', 'an example.html'],
  ["attachment; filename*= UTF-8''%e2%82%ac%20rates", '€ rates'],
  [`attachment; filename="EURO rates"; filename*=utf-8''%e2%82%ac%20rates`, '€ rates'],
  ['attachment; filename="Lab 4; \\"final\\".csv"', 'Lab 4; "final".csv'],
  ['attachment', 'download'],
  [null, 'download'],
])('a file that is told as %s is called %s', (disposition, name) => {
  expect(fileNameOf(disposition)).toBe(name);
});
