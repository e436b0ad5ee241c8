/** A small OneRoster service for tests: client credentials, pages, filters, and faults on request. */
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

type RosterEntry = Readonly<Record<string, unknown>>;

export interface RosterStandIn {
  readonly base: string;
  readonly tokenUrl: string;
  /** What it has; a test changes it. */
  readonly lists: Record<
    'students' | 'teachers' | 'enrollments' | 'lineItems' | 'results' | 'categories' | 'classes',
    RosterEntry[]
  >;
  /** Each request, as its path with its query. */
  readonly asked: string[];
  /** The way in which it signs clients in. */
  readonly tokens: { how: 'basic' | 'body'; refused: number; seen: string[] };
  /** Answers the next request with these letters in its path in this way. */
  readonly faults: { on: string; status: number; body?: string; headers?: Record<string, string> }[];
  page: number;
  close(): Promise<void>;
}

export async function openRoster(): Promise<RosterStandIn> {
  const standIn = {
    lists: { students: [], teachers: [], enrollments: [], lineItems: [], results: [], categories: [], classes: [] },
    asked: [],
    faults: [],
    page: 100,
    tokens: { how: 'basic', refused: 0, seen: [] },
  } as unknown as RosterStandIn;
  const server = createServer((req, res) => {
    void answer(standIn, req, res);
  });
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', () => ready()));
  const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  return Object.assign(standIn, {
    base: `${origin}/sis`,
    tokenUrl: `${origin}/token`,
    close: () =>
      new Promise<void>((closed) => {
        server.closeAllConnections();
        server.close(() => closed());
      }),
  });
}

async function answer(standIn: RosterStandIn, req: IncomingMessage, res: ServerResponse): Promise<void> {
  const parts: Buffer[] = [];
  for await (const part of req) parts.push(part as Buffer);
  const url = new URL(req.url ?? '/', 'http://x.example');
  const say = (status: number, body: unknown, headers: Record<string, string> = {}) =>
    res
      .writeHead(status, { 'content-type': 'application/json', ...headers })
      .end(typeof body === 'string' ? body : JSON.stringify(body));
  const fault = standIn.faults.findIndex((f) => url.pathname.includes(f.on));
  if (fault >= 0) {
    const [{ status, body = '', headers }] = standIn.faults.splice(fault, 1) as [(typeof standIn.faults)[number]];
    return void say(status, body, headers);
  }
  if (url.pathname === '/token') {
    const form = new URLSearchParams(Buffer.concat(parts).toString());
    const basic = req.headers.authorization;
    standIn.tokens.seen.push(`${basic ? 'basic' : ''}${form.has('client_secret') ? 'body' : ''}`);
    const isGood =
      standIn.tokens.how === 'basic'
        ? basic === `Basic ${Buffer.from('client:s%3Acret').toString('base64')}` && !form.has('client_secret')
        : basic === undefined && form.get('client_secret') === 's:cret';
    return void (isGood
      ? say(200, { access_token: 'token', expires_in: 3600 })
      : say(401, { error: 'invalid_client' }));
  }
  standIn.asked.push(decodeURIComponent(`${url.pathname}${url.search}`));
  if (req.headers.authorization !== 'Bearer token') return void say(401, {});
  const [, of] =
    /\/(students|teachers|enrollments|lineItems|results|categories|scoreScales|classes)$/.exec(url.pathname) ?? [];
  if (of === undefined) return void say(200, { class: { sourcedId: 'c1', title: 'Coastal Navigation' } });
  if (of === 'scoreScales') return void say(404, {});
  const since = /^dateLastModified>'(.*)'$/.exec(url.searchParams.get('filter') ?? '')?.[1];
  const all = standIn.lists[of as keyof RosterStandIn['lists']].filter(
    (e) => since === undefined || String(e['dateLastModified']) > since,
  );
  const offset = Number(url.searchParams.get('offset') ?? 0);
  const page = all.slice(offset, offset + standIn.page);
  const next = new URL(url);
  next.searchParams.set('offset', String(offset + standIn.page));
  const link = offset + standIn.page < all.length ? { link: `<${next.pathname}${next.search}>; rel="next"` } : {};
  say(200, { [of === 'students' || of === 'teachers' ? 'users' : of]: page }, link as Record<string, string>);
}
