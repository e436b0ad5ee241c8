/**
 * A small learning platform that speaks open standards for real, on loopback under `localhost`, so that it is another site than the
 * tool: it launches (LTI 1.3) and registers itself on request, tells who is in a course (Names and Roles) and what they scored
 * (Assignment and Grade Services), and has a OneRoster service. What its students do it sends on its own (`sending.ts`).
 */
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
import { isFault, type PlatformFault } from './faults.ts';
import { escaped, frontPage, type PlatformContext } from './frontPage.ts';
import { isOneRoster, oneRosterAnswer } from './oneRoster.ts';
import { LAUNCH_ROLES, linesOf, membersOf, resultsOf, type ClassRoster } from './classRoster.ts';

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/';
export interface PlatformKey {
  readonly privateKey: CryptoKey;
  readonly kid: string;
  readonly jwk: object;
}

/** A message, with whatever of it is to be wrong. */
export interface LaunchClaims {
  readonly nonce: string;
  readonly target: string;
  readonly sub?: string | undefined;
  readonly roles?: readonly string[];
  readonly more?: Readonly<Record<string, unknown>>;
  readonly iss?: string;
  readonly aud?: string | string[];
  readonly exp?: string | null;
  readonly iat?: number;
  readonly key?: PlatformKey;
}

export interface PlatformOptions {
  readonly port?: number;
  /** Where the tool is, once it is known. */
  readonly tool: () => string;
  readonly contexts?: readonly PlatformContext[];
  /** What it tells of its classes when it is asked, by the ids of their contexts. */
  readonly classes?: () => ReadonlyMap<string, ClassRoster>;
  /** How long a slow service takes to answer, in ms. */
  readonly slowness?: number;
}

const CLIENT_ID = 'tool-1';
const REGISTRATION_TOKEN = 'once';
/** Requests that are kept for a look. */
const MOST_REMEMBERED = 10_000;
const ROSTER_CLIENT = { clientId: 'zest-bell', clientSecret: 'a secret between two stand-ins' } as const;

export type LearningPlatform = Awaited<ReturnType<typeof openPlatform>>;

export async function openPlatform(options: PlatformOptions) {
  const { port = 0, tool, contexts = [], classes = () => new Map<string, ClassRoster>(), slowness = 4000 } = options;
  const keys: PlatformKey[] = [];
  const makeKey = async (): Promise<PlatformKey> => {
    const pair = await generateKeyPair('RS256', { extractable: true });
    const jwk = await exportJWK(pair.publicKey);
    const kid = await calculateJwkThumbprint(jwk);
    return { privateKey: pair.privateKey, kid, jwk: { ...jwk, kid, alg: 'RS256', use: 'sig' } };
  };
  keys.push(await makeKey());
  /** By the context. */
  const members = new Map<string, object[]>();
  const groups = new Map<string, object[]>();
  const lines = new Map<string, Record<string, unknown>[]>();
  const results = new Map<string, object[]>();
  const state = {
    faults: [] as { readonly on: string; readonly status: number }[],
    asked: [] as string[],
    page: 100,
    /** Tools that registered themselves, as they asked for it. */
    enrolled: [] as Record<string, unknown>[],
    /** What its configuration says otherwise. */
    says: {} as Record<string, unknown>,
    /** What goes wrong until it is switched off. */
    switched: new Set<PlatformFault>(),
  };
  const server = createServer((req, res) => void answer(req, res).catch(() => res.destroy()));
  await new Promise<void>((ready, failed) => {
    server.once('error', failed);
    server.listen(port, '127.0.0.1', () => ready());
  });
  const base = `http://localhost:${(server.address() as AddressInfo).port}`;
  const issuer = base;

  async function answer(req: IncomingMessage, res: ServerResponse): Promise<void> {
    const parts: Buffer[] = [];
    for await (const part of req) parts.push(part as Buffer);
    const url = new URL(req.url ?? '/', base);
    const say = (status: number, body: unknown, headers: Record<string, string> = {}) => {
      const text = JSON.stringify(body);
      const breaksOff = state.switched.has('halfPage') && status === 200 && req.headers.authorization !== undefined;
      res.writeHead(status, {
        'content-type': 'application/json',
        'content-length': Buffer.byteLength(text),
        ...headers,
      });
      if (breaksOff) res.write(text.slice(0, text.length / 2), () => res.destroy());
      else res.end(text);
    };
    const page = (html: string) => void res.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(html);
    if (state.asked.length < MOST_REMEMBERED) state.asked.push(`${url.pathname}${url.search}`);
    const fault = state.faults.findIndex((f) => url.pathname.includes(f.on));
    if (fault >= 0) return say(state.faults.splice(fault, 1)[0]!.status, {});
    const [, where = '', context = ''] = url.pathname.split('/').map(decodeURIComponent);
    if (where === '')
      return page(frontPage({ contexts, tool: tool(), issuer, clientId: CLIENT_ID, faults: state.switched }));
    if (where === 'faults' && req.method === 'POST' && req.headers.origin === base) {
      state.switched = new Set(new URLSearchParams(Buffer.concat(parts).toString()).getAll('fault').filter(isFault));
      return void res.writeHead(303, { location: '/' }).end();
    }
    if (where === 'auth') return authorize(url, page, say);
    if (url.pathname === '/.well-known/openid-configuration')
      return say(200, { ...openIdConfiguration, ...state.says });
    if (where === 'register') {
      if (req.method === 'GET') return void res.writeHead(303, { location: registrationLink(url) }).end();
      return enroll(req, Buffer.concat(parts).toString(), say);
    }
    if (where === 'jwks') return say(200, { keys: keys.map((k) => k.jwk) });
    if (where === 'token') return token(new URLSearchParams(Buffer.concat(parts).toString()), say);
    if (url.pathname === '/oneroster/token') return rosterToken(req, say);
    if (state.switched.has('slow')) await new Promise((later) => setTimeout(later, slowness));
    if (state.switched.has('unauthorized')) return say(401, {});
    if (state.switched.has('serverError')) return say(500, {});
    const wanted = isOneRoster(url.pathname) ? 'Bearer roster' : 'Bearer bearer';
    if (req.headers.authorization !== wanted) return say(401, {});
    const paged = <T>(all: readonly T[], wrap: (page: readonly T[]) => unknown) => {
      const from = Number(url.searchParams.get('from') ?? 0);
      const next = new URL(url);
      next.searchParams.set('from', String(from + state.page));
      const link = from + state.page < all.length ? { link: `<${next.href}>; rel="next"` } : null;
      say(200, wrap(all.slice(from, from + state.page)), link ?? {});
    };
    if (isOneRoster(url.pathname)) return oneRoster(url, say);
    const told = classes().get(context);
    if (where === 'names')
      return paged(members.get(context) ?? (told ? membersOf(told) : []), (all) => ({ id: url.href, members: all }));
    if (where === 'groups') return paged(groups.get(context) ?? [], (all) => ({ id: url.href, groups: all }));
    if (where === 'lineitems' && url.pathname.endsWith('/results')) {
      const line = url.pathname.replace(/\/results$/, '');
      const item = decodeURIComponent(line.split('/').at(-1)!);
      return paged(results.get(line) ?? (told ? resultsOf(told, item) : []), (all) => all);
    }
    if (where === 'lineitems')
      return paged(lines.get(context) ?? (told ? linesOf(told, `${base}/lineitems/${context}`) : []), (all) => all);
    say(404, {});
  }

  /** By `limit` and `offset`, with a Link to the next page. */
  function oneRoster(url: URL, say: (status: number, body: unknown, headers?: Record<string, string>) => void): void {
    const answer = oneRosterAnswer(url.pathname, classes());
    if (!answer) return say(404, {});
    if ('one' in answer) return say(200, { [answer.name]: answer.one });
    const number = (name: string, otherwise: number) => Number(url.searchParams.get(name) ?? otherwise);
    const [limit, offset] = [Math.min(number('limit', state.page), state.page), number('offset', 0)];
    const next = new URL(url);
    next.searchParams.set('offset', String(offset + limit));
    const more = offset + limit < answer.list.length ? { link: `<${next.href}>; rel="next"` } : null;
    const headers = { 'x-total-count': String(answer.list.length), ...more };
    say(200, { [answer.name]: answer.list.slice(offset, offset + limit) }, headers);
  }

  /** Client credentials (RFC 6749, 2.3.1 and 4.4). */
  function rosterToken(req: IncomingMessage, say: (status: number, body: unknown) => void): void {
    const { clientId, clientSecret } = ROSTER_CLIENT;
    const basic = [clientId, clientSecret].map((text) => encodeURIComponent(text).replace(/%20/g, '+')).join(':');
    if (req.headers.authorization !== `Basic ${Buffer.from(basic).toString('base64')}`)
      return say(401, { error: 'invalid_client' });
    say(200, { access_token: 'roster', token_type: 'bearer', expires_in: 3600 });
  }

  const openIdConfiguration = {
    issuer,
    authorization_endpoint: `${base}/auth`,
    token_endpoint: `${base}/token`,
    jwks_uri: `${base}/jwks`,
    registration_endpoint: `${base}/register`,
    id_token_signing_alg_values_supported: ['RS256'],
  };

  /** Where somebody goes to register a tool, as the address that its administrator was given leads on. */
  function registrationLink(url: URL): string {
    const given = url.searchParams.get('address') ?? '';
    if (!URL.canParse(given)) return '/';
    const to = new URL(given);
    to.searchParams.set('openid_configuration', `${base}/.well-known/openid-configuration`);
    to.searchParams.set('registration_token', REGISTRATION_TOKEN);
    return to.href;
  }

  /** Takes a tool that registers itself (LTI Dynamic Registration 1.0, from memory). */
  function enroll(req: IncomingMessage, body: string, say: (status: number, body: unknown) => void): void {
    if (req.headers.authorization !== `Bearer ${REGISTRATION_TOKEN}`) return say(401, {});
    const asked = JSON.parse(body) as Record<string, unknown>;
    state.enrolled.push(asked);
    const claim = 'https://purl.imsglobal.org/spec/lti-tool-configuration';
    const clientId = `tool-${state.enrolled.length + 1}`;
    say(200, { ...asked, client_id: clientId, [claim]: { ...(asked[claim] as object), deployment_id: 'd2' } });
  }

  async function token(form: URLSearchParams, say: (status: number, body: unknown) => void): Promise<void> {
    try {
      const keysOfTool = createRemoteJWKSet(new URL(`${tool()}/lti/keys`));
      await jwtVerify(form.get('client_assertion') ?? '', keysOfTool, {
        issuer: CLIENT_ID,
        subject: CLIENT_ID,
        audience: `${base}/token`,
        algorithms: ['RS256'],
      });
      say(200, { access_token: 'bearer', token_type: 'bearer', expires_in: 3600, scope: form.get('scope') });
    } catch {
      say(401, { error: 'invalid_client' });
    }
  }

  /** A person who pressed a link is signed in here: the message goes back by a form that sends itself. */
  async function authorize(
    url: URL,
    page: (html: string) => void,
    say: (status: number, body: unknown) => void,
  ): Promise<void> {
    const of = (name: string) => url.searchParams.get(name) ?? '';
    const [contextId, sub] = of('login_hint').split(' ');
    const context = contexts.find((c) => c.id === contextId);
    const who = context?.launchers.find((l) => l.sub === sub);
    const target = `${tool()}/lti/launch`;
    if (!context || !who || of('client_id') !== CLIENT_ID || of('redirect_uri') !== target)
      return say(400, { error: 'invalid_request' });
    const key = state.switched.has('wrongKey') ? await makeKey() : keys[0]!;
    const nonce = state.switched.has('wrongNonce') ? `${of('nonce')}-another` : of('nonce');
    const message = await sign({
      nonce,
      target,
      key,
      sub: who.sub,
      roles: who.roles,
      more: {
        name: who.name,
        given_name: who.name.split(' ')[0],
        family_name: who.name.split(' ').slice(1).join(' '),
        email: who.email,
        ...contextClaims(context),
      },
    });
    page(
      `<!doctype html><title>One moment</title><form method="post" action="${of('redirect_uri')}"><input type="hidden" name="id_token" value="${message}"><input type="hidden" name="state" value="${escaped(of('state'))}"></form><script>document.forms[0].submit()</script>`,
    );
  }

  /** Where the services of a class are. */
  const servicesOf = (context: string) => ({
    namesUrl: `${base}/names/${context}`,
    itemsUrl: `${base}/lineitems/${context}`,
    scopes: ['lineitem.readonly', 'result.readonly'].map((s) => `https://purl.imsglobal.org/spec/lti-ags/scope/${s}`),
  });

  const contextClaims = ({ id, label, title }: Pick<PlatformContext, 'id' | 'label' | 'title'>) => ({
    [`${CLAIM}context`]: { id, label, title },
    'https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice': {
      context_memberships_url: servicesOf(id).namesUrl,
      service_versions: ['2.0'],
    },
    'https://purl.imsglobal.org/spec/lti-ags/claim/endpoint': {
      scope: servicesOf(id).scopes,
      lineitems: servicesOf(id).itemsUrl,
    },
  });

  const sign = ({
    nonce,
    target,
    roles = [LAUNCH_ROLES.instructor],
    more = {},
    key = keys[0]!,
    ...m
  }: LaunchClaims) => {
    const claims = {
      nonce,
      [`${CLAIM}version`]: '1.3.0',
      [`${CLAIM}message_type`]: 'LtiResourceLinkRequest',
      [`${CLAIM}deployment_id`]: 'd1',
      [`${CLAIM}roles`]: roles,
      [`${CLAIM}resource_link`]: { id: 'r1' },
      [`${CLAIM}target_link_uri`]: target,
      ...contextClaims({ id: 'c7', label: 'OCE 210', title: 'Oceans' }),
      name: 'Ines Vale',
      given_name: 'Ines',
      family_name: 'Vale',
      email: 'ines@campus.example',
      ...more,
    };
    const message = new SignJWT(claims)
      .setProtectedHeader({ alg: 'RS256', kid: key.kid, typ: 'JWT' })
      .setIssuer(m.iss ?? issuer)
      .setAudience(m.aud ?? CLIENT_ID)
      .setIssuedAt(m.iat);
    if (m.sub !== '') message.setSubject(m.sub ?? 'user-1');
    if (m.exp !== null) message.setExpirationTime(m.exp ?? '5m');
    return message.sign(key.privateKey);
  };

  return {
    base,
    issuer,
    keys,
    members,
    groups,
    lines,
    results,
    state,
    sign,
    makeKey,
    claim: (name: string) => CLAIM + name,
    /** How its OneRoster service is reached. */
    roster: { base, tokenUrl: `${base}/oneroster/token`, version: '1.2', ...ROSTER_CLIENT } as const,
    servicesOf,
    /** What an administrator of the tool registers. */
    registration: {
      issuer,
      clientId: CLIENT_ID,
      deployments: ['d1'],
      authEndpoint: `${base}/auth`,
      tokenEndpoint: `${base}/token`,
      jwksUrl: `${base}/jwks`,
    },
    close: () =>
      new Promise<void>((closed) => {
        server.closeAllConnections();
        server.close(() => closed());
      }),
  };
}
