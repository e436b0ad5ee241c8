/** A small learning platform for tests: keys that rotate, messages that are signed, rosters and grades behind a token. */
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import {
  calculateJwkThumbprint,
  createRemoteJWKSet,
  exportJWK,
  generateKeyPair,
  jwtVerify,
  SignJWT,
  type CryptoKey,
} from 'jose';

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/';
export const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership';
export const ROLES = {
  instructor: `${MEMBERSHIP}#Instructor`,
  learner: `${MEMBERSHIP}#Learner`,
  assistant: `${MEMBERSHIP}/Instructor#TeachingAssistant`,
} as const;

interface Key {
  readonly privateKey: CryptoKey;
  readonly kid: string;
  readonly jwk: object;
}

export interface Message {
  readonly nonce: string;
  readonly target: string;
  readonly sub?: string | undefined;
  readonly roles?: readonly string[];
  readonly more?: Readonly<Record<string, unknown>>;
  readonly iss?: string;
  readonly aud?: string | string[];
  readonly exp?: string | null;
  readonly iat?: number;
  readonly key?: Key;
}

export async function openPlatform(toolKeys: () => string) {
  const keys: Key[] = [];
  const makeKey = async (): Promise<Key> => {
    const pair = await generateKeyPair('RS256', { extractable: true });
    const jwk = await exportJWK(pair.publicKey);
    const kid = await calculateJwkThumbprint(jwk);
    return { privateKey: pair.privateKey, kid, jwk: { ...jwk, kid, alg: 'RS256', use: 'sig' } };
  };
  keys.push(await makeKey());
  const state = {
    members: [] as object[],
    lines: [] as Record<string, unknown>[],
    results: new Map<string, object[]>(),
    faults: [] as { on: string; status: number }[],
    asked: [] as string[],
    page: 100,
  };
  const server = createServer((req, res) => void answer(req, res));
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', () => ready()));
  const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const issuer = 'https://campus.example';

  async function answer(req: IncomingMessage, res: ServerResponse): Promise<void> {
    const parts: Buffer[] = [];
    for await (const part of req) parts.push(part as Buffer);
    const url = new URL(req.url ?? '/', base);
    const say = (status: number, body: unknown, headers: Record<string, string> = {}) =>
      void res.writeHead(status, { 'content-type': 'application/json', ...headers }).end(JSON.stringify(body));
    state.asked.push(`${url.pathname}${url.search}`);
    const fault = state.faults.findIndex((f) => url.pathname.includes(f.on));
    if (fault >= 0) return say(state.faults.splice(fault, 1)[0]!.status, {});
    if (url.pathname === '/jwks') return say(200, { keys: keys.map((k) => k.jwk) });
    if (url.pathname === '/token') {
      const form = new URLSearchParams(Buffer.concat(parts).toString());
      const { payload } = await jwtVerify(form.get('client_assertion')!, createRemoteJWKSet(new URL(toolKeys())), {
        ...{ issuer: 'tool-1', audience: `${base}/token`, algorithms: ['RS256'] },
      });
      return payload.sub === 'tool-1' ? say(200, { access_token: 'bearer', scope: form.get('scope') }) : say(401, {});
    }
    if (req.headers.authorization !== 'Bearer bearer') return say(401, {});
    const paged = <T>(all: readonly T[], wrap: (page: readonly T[]) => unknown) => {
      const from = Number(url.searchParams.get('from') ?? 0);
      const next = new URL(url);
      next.searchParams.set('from', String(from + state.page));
      say(
        200,
        wrap(all.slice(from, from + state.page)),
        from + state.page < all.length ? { link: `<${next.href}>; rel="next"` } : {},
      );
    };
    if (url.pathname === '/names') return paged(state.members, (members) => ({ id: url.href, members }));
    if (url.pathname === '/lineitems') return paged(state.lines, (page) => page);
    if (url.pathname.endsWith('/results'))
      return paged(state.results.get(url.pathname.replace(/\/results$/, '')) ?? [], (page) => page);
    say(404, {});
  }

  const sign = ({ nonce, target, roles = [ROLES.instructor], more = {}, key = keys[0]!, ...m }: Message) => {
    const claims = {
      nonce,
      ...{ [`${CLAIM}version`]: '1.3.0', [`${CLAIM}message_type`]: 'LtiResourceLinkRequest' },
      ...{ [`${CLAIM}deployment_id`]: 'd1', [`${CLAIM}roles`]: roles, [`${CLAIM}resource_link`]: { id: 'r1' } },
      ...{ [`${CLAIM}target_link_uri`]: target, [`${CLAIM}context`]: { id: 'c7', label: 'OCE 210', title: 'Oceans' } },
      'https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice': {
        ...{ context_memberships_url: `${base}/names`, service_versions: ['2.0'] },
      },
      'https://purl.imsglobal.org/spec/lti-ags/claim/endpoint': {
        scope: [
          'https://purl.imsglobal.org/spec/lti-ags/scope/lineitem.readonly',
          'https://purl.imsglobal.org/spec/lti-ags/scope/result.readonly',
        ],
        lineitems: `${base}/lineitems`,
      },
      ...{ name: 'Ines Vale', given_name: 'Ines', family_name: 'Vale', email: 'ines@campus.example' },
      ...more,
    };
    const token = new SignJWT(claims)
      .setProtectedHeader({ alg: 'RS256', kid: key.kid, typ: 'JWT' })
      .setIssuer(m.iss ?? issuer)
      .setAudience(m.aud ?? 'tool-1')
      .setIssuedAt(m.iat);
    if (m.sub !== '') token.setSubject(m.sub ?? 'user-1');
    if (m.exp !== null) token.setExpirationTime(m.exp ?? '5m');
    return token.sign(key.privateKey);
  };

  return {
    ...{ base, issuer, keys, state, sign, makeKey },
    claim: (name: string) => CLAIM + name,
    registration: {
      ...{ issuer, clientId: 'tool-1', deployments: ['d1'], authEndpoint: 'https://campus.example/auth' },
      ...{ tokenEndpoint: `${base}/token`, jwksUrl: `${base}/jwks` },
      ...{ frameOrigins: ['https://frames.campus.example'], serviceOrigins: [] as string[] },
    },
    close: () =>
      new Promise<void>((closed) => {
        server.closeAllConnections();
        server.close(() => closed());
      }),
  };
}
export type PlatformStandIn = Awaited<ReturnType<typeof openPlatform>>;
