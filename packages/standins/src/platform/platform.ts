/**
 * A small learning platform that speaks open standards for real, on loopback under `localhost`, so that it is another site than the
 * tool: it launches (LTI 1.3), tells who is in a course (Names and Roles) and what they scored (Assignment and Grade Services).
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

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/';
const MEMBERSHIP = 'http://purl.imsglobal.org/vocab/lis/v2/membership';
export const LAUNCH_ROLES = {
  instructor: `${MEMBERSHIP}#Instructor`,
  learner: `${MEMBERSHIP}#Learner`,
  assistant: `${MEMBERSHIP}/Instructor#TeachingAssistant`,
} as const;

export interface PlatformKey {
  readonly privateKey: CryptoKey;
  readonly kid: string;
  readonly jwk: object;
}

/** A message, with whatever of it is to be wrong. */
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
  readonly key?: PlatformKey;
}

/** Somebody who may press a link of its page. */
export interface Launcher {
  readonly sub: string;
  readonly name: string;
  readonly email: string;
  readonly roles: readonly string[];
}

export interface PlatformContext {
  readonly id: string;
  readonly label: string;
  readonly title: string;
  readonly launchers: readonly Launcher[];
}

export interface PlatformOptions {
  readonly port?: number;
  /** Where the tool is, once it is known. */
  readonly tool: () => string;
  readonly contexts?: readonly PlatformContext[];
}

export type LearningPlatform = Awaited<ReturnType<typeof openPlatform>>;

export async function openPlatform({ port = 0, tool, contexts = [] }: PlatformOptions) {
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
  const lines = new Map<string, Record<string, unknown>[]>();
  const results = new Map<string, object[]>();
  const state = {
    faults: [] as { readonly on: string; readonly status: number }[],
    asked: [] as string[],
    page: 100,
  };
  const server = createServer((req, res) => void answer(req, res));
  await new Promise<void>((ready) => server.listen(port, '127.0.0.1', () => ready()));
  const base = `http://localhost:${(server.address() as AddressInfo).port}`;
  const issuer = base;

  async function answer(req: IncomingMessage, res: ServerResponse): Promise<void> {
    const parts: Buffer[] = [];
    for await (const part of req) parts.push(part as Buffer);
    const url = new URL(req.url ?? '/', base);
    const say = (status: number, body: unknown, headers: Record<string, string> = {}) =>
      void res.writeHead(status, { 'content-type': 'application/json', ...headers }).end(JSON.stringify(body));
    const page = (html: string) => void res.writeHead(200, { 'content-type': 'text/html; charset=utf-8' }).end(html);
    state.asked.push(`${url.pathname}${url.search}`);
    const fault = state.faults.findIndex((f) => url.pathname.includes(f.on));
    if (fault >= 0) return say(state.faults.splice(fault, 1)[0]!.status, {});
    const [, where = '', context = ''] = url.pathname.split('/');
    if (where === '') return page(frontPage(contexts, { tool: tool(), issuer }));
    if (where === 'auth') return authorize(url, page, say);
    if (where === 'jwks') return say(200, { keys: keys.map((k) => k.jwk) });
    if (where === 'token') return token(new URLSearchParams(Buffer.concat(parts).toString()), say);
    if (req.headers.authorization !== 'Bearer bearer') return say(401, {});
    const paged = <T>(all: readonly T[], wrap: (page: readonly T[]) => unknown) => {
      const from = Number(url.searchParams.get('from') ?? 0);
      const next = new URL(url);
      next.searchParams.set('from', String(from + state.page));
      const link = from + state.page < all.length ? { link: `<${next.href}>; rel="next"` } : null;
      say(200, wrap(all.slice(from, from + state.page)), link ?? {});
    };
    if (where === 'names') return paged(members.get(context) ?? [], (all) => ({ id: url.href, members: all }));
    if (where === 'lineitems' && url.pathname.endsWith('/results'))
      return paged(results.get(url.pathname.replace(/\/results$/, '')) ?? [], (all) => all);
    if (where === 'lineitems') return paged(lines.get(context) ?? [], (all) => all);
    say(404, {});
  }

  async function token(form: URLSearchParams, say: (status: number, body: unknown) => void): Promise<void> {
    try {
      const keysOfTool = createRemoteJWKSet(new URL(`${tool()}/lti/keys`));
      await jwtVerify(form.get('client_assertion') ?? '', keysOfTool, {
        ...{ issuer: 'tool-1', subject: 'tool-1', audience: `${base}/token`, algorithms: ['RS256'] },
      });
      say(200, { access_token: 'bearer', token_type: 'bearer', expires_in: 3600, scope: form.get('scope') });
    } catch {
      say(401, { error: 'invalid_client' });
    }
  }

  /** Whoever pressed a link is signed in here: the message goes back by a form that sends itself. */
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
    if (!context || !who || of('client_id') !== 'tool-1' || of('redirect_uri') !== target)
      return say(400, { error: 'invalid_request' });
    const message = await sign({
      ...{ nonce: of('nonce'), target, sub: who.sub, roles: who.roles },
      more: {
        ...{ name: who.name, given_name: who.name.split(' ')[0], family_name: who.name.split(' ').slice(1).join(' ') },
        ...{ email: who.email, ...contextClaims(context) },
      },
    });
    page(
      `<!doctype html><title>One moment</title><form method="post" action="${of('redirect_uri')}"><input type="hidden" name="id_token" value="${message}"><input type="hidden" name="state" value="${escaped(of('state'))}"></form><script>document.forms[0].submit()</script>`,
    );
  }

  const contextClaims = ({ id, label, title }: Pick<PlatformContext, 'id' | 'label' | 'title'>) => ({
    [`${CLAIM}context`]: { id, label, title },
    'https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice': {
      ...{ context_memberships_url: `${base}/names/${id}`, service_versions: ['2.0'] },
    },
    'https://purl.imsglobal.org/spec/lti-ags/claim/endpoint': {
      scope: ['lineitem.readonly', 'result.readonly'].map((s) => `https://purl.imsglobal.org/spec/lti-ags/scope/${s}`),
      lineitems: `${base}/lineitems/${id}`,
    },
  });

  const sign = ({ nonce, target, roles = [LAUNCH_ROLES.instructor], more = {}, key = keys[0]!, ...m }: Message) => {
    const claims = {
      nonce,
      ...{ [`${CLAIM}version`]: '1.3.0', [`${CLAIM}message_type`]: 'LtiResourceLinkRequest' },
      ...{ [`${CLAIM}deployment_id`]: 'd1', [`${CLAIM}roles`]: roles, [`${CLAIM}resource_link`]: { id: 'r1' } },
      ...{ [`${CLAIM}target_link_uri`]: target },
      ...contextClaims({ id: 'c7', label: 'OCE 210', title: 'Oceans' }),
      ...{ name: 'Ines Vale', given_name: 'Ines', family_name: 'Vale', email: 'ines@campus.example' },
      ...more,
    };
    const message = new SignJWT(claims)
      .setProtectedHeader({ alg: 'RS256', kid: key.kid, typ: 'JWT' })
      .setIssuer(m.iss ?? issuer)
      .setAudience(m.aud ?? 'tool-1')
      .setIssuedAt(m.iat);
    if (m.sub !== '') message.setSubject(m.sub ?? 'user-1');
    if (m.exp !== null) message.setExpirationTime(m.exp ?? '5m');
    return message.sign(key.privateKey);
  };

  return {
    ...{ base, issuer, keys, members, lines, results, state, sign, makeKey },
    claim: (name: string) => CLAIM + name,
    /** What an administrator of the tool registers. */
    registration: {
      ...{ issuer, clientId: 'tool-1', deployments: ['d1'], authEndpoint: `${base}/auth` },
      ...{ tokenEndpoint: `${base}/token`, jwksUrl: `${base}/jwks` },
    },
    close: () =>
      new Promise<void>((closed) => {
        server.closeAllConnections();
        server.close(() => closed());
      }),
  };
}

const escaped = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** Its page: the courses, and who opens the tool there. */
function frontPage(
  contexts: readonly PlatformContext[],
  { tool, issuer }: { readonly tool: string; readonly issuer: string },
): string {
  const link = (context: PlatformContext, { sub, name, roles }: Launcher) => {
    const fields = {
      iss: issuer,
      login_hint: `${context.id} ${sub}`,
      target_link_uri: `${tool}/lti/launch`,
      client_id: 'tool-1',
    };
    const role = roles.includes(LAUNCH_ROLES.instructor) ? 'instructor' : 'student';
    return `<form method="post" action="${escaped(`${tool}/lti/login`)}" data-of="${escaped(`${context.id} ${role}`)}">${Object.entries(
      fields,
    )
      .map(([key, value]) => `<input type="hidden" name="${key}" value="${escaped(value)}">`)
      .join('')}<button>Open as ${role}: ${escaped(name)}</button></form>`;
  };
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>The campus</title>
<style>body{font:17px/1.5 system-ui,sans-serif;max-width:40rem;margin:2rem auto;padding:0 1rem;color:#14211d}form{margin:.5rem 0}button{font:inherit;padding:.4rem .9rem}</style>
<h1>The campus</h1><p>This page stands for a learning platform. Its links open Zest Bell as the platform would.</p>
${contexts.map((c) => `<h2>${escaped(c.label)} ${escaped(c.title)}</h2>${c.launchers.map((l) => link(c, l)).join('')}`).join('')}</html>`;
}
