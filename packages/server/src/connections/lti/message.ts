/** Login and message of a launch (LTI 1.3, from memory): what is sent to the platform, and what of its answer is believed. */
import { timingSafeEqual } from 'node:crypto';
import { createRemoteJWKSet, customFetch, errors, jwtVerify, type JWTPayload } from 'jose';
import { z } from 'zod';
import { hashOf, newSecret } from '../../access/passwords.ts';
import type { OutgoingClient } from '../../platform/http/outgoing.ts';
import type { Seal } from '../../platform/process/seal.ts';
import { originsOf } from './platforms.ts';
import type { PlatformRow } from './entity.ts';
import { wallClock } from '../../platform/process/clock.ts';

const CLAIM = 'https://purl.imsglobal.org/spec/lti/claim/';
const STATE_LIVES = 10 * 60_000;
const TOLERANCE = 30;
const OLDEST = '10m';

/** Why a launch is refused, as a page says it: what to mend, in plain words. */
const REFUSALS = {
  missing: 'A part of the request is missing. Open the link in your course again.',
  unknownPlatform: 'Zest Bell does not know this platform. An administrator registers it under Connections.',
  severalClients:
    'This platform is registered under several client ids, and did not say which it means. Its administrator adds the client id to the login.',
  wrongTarget:
    'The link leads to another address than this Zest Bell. Its administrator corrects the address of the tool.',
  stateUnknown: 'This launch was not begun here, or took longer than ten minutes. Open the link in your course again.',
  noCookie: 'Your browser kept no cookie for this frame. Open Zest Bell in a window of its own.',
  otherBrowser: 'This launch was begun in another browser. Open the link in your course again.',
  platformRefused: 'The platform did not sign you in. Sign in there, then press the link once more.',
  wrongIssuer:
    'The message comes from another platform than the one that was asked. An administrator checks the issuer.',
  wrongAudience: 'The message is for another tool. An administrator checks the client id.',
  expired: 'The message has expired. Open the link in your course again.',
  tooOld: 'The message is too old, or the platform’s clock is wrong. Press the link once more; then check the clocks.',
  nonceForeign: 'The message does not belong to this launch. Open the link in your course again.',
  nonceUsed: 'This launch was used already. Open the link in your course again.',
  wrongAlgorithm: 'The message is signed in a way that is not accepted. The platform signs with RS256.',
  unknownKey:
    'The message is signed with a key that the platform does not publish. An administrator checks the address of its keys.',
  forged: 'The signature of the message is wrong. An administrator checks the address of the platform’s keys.',
  unreadable: 'The message cannot be read. Open the link in your course again.',
  keysUnreachable: 'The keys of the platform cannot be fetched now. Try again in a minute.',
  wrongDeployment: 'The platform launched from a deployment that is not registered. An administrator adds its id.',
  wrongVersion: 'The platform speaks another version of LTI. Zest Bell speaks 1.3.',
  wrongMessage: 'The platform asked for something that Zest Bell does not offer. Use a plain link to it.',
  noResource: 'The launch names no link. Remove the link from the course and add it again.',
  noContext: 'The launch names no course. Add the link inside a course.',
  noUser: 'The platform does not say who you are. Its administrator lets it send users to tools.',
  notSetUp: 'Nobody has set Zest Bell up yet. Its administrator makes the first account.',
} as const;
export type RefusalCode = keyof typeof REFUSALS;

export class LaunchRefused extends Error {
  readonly code: RefusalCode;
  /** Begins the launch again in a window of its own. */
  readonly again: string | null;

  constructor(code: RefusalCode, again: string | null = null) {
    super(REFUSALS[code]);
    this.code = code;
    this.again = again;
  }
}

export interface LoginRequest {
  readonly iss?: string | undefined;
  readonly login_hint?: string | undefined;
  readonly target_link_uri?: string | undefined;
  readonly client_id?: string | undefined;
  readonly lti_deployment_id?: string | undefined;
  readonly lti_message_hint?: string | undefined;
  readonly lti_storage_target?: string | undefined;
}

/** What a state says when it comes back. */
export interface LaunchState {
  /** The platform. */
  readonly p: number;
  /** The nonce. */
  readonly n: string;
  /** Where the launch leads. */
  readonly t: string;
  /** Until when it counts. */
  readonly e: number;
  /** Hash of what the platform keeps for the frame, where it keeps something. */
  readonly v: string | null;
  /** The query of the login, to begin again. */
  readonly q: string;
}

const isSameText = (a: string, b: string): boolean => {
  const [x, y] = [Buffer.from(a), Buffer.from(b)];
  return x.length === y.length && timingSafeEqual(x, y);
};

/** Throws `LaunchRefused`. */
export function beginLogin(
  said: LoginRequest,
  known: readonly PlatformRow[],
  { seal, base, now = wallClock() }: { readonly seal: Seal; readonly base: string; readonly now?: number },
) {
  const { iss, login_hint: hint, target_link_uri: target, client_id: client } = said;
  if (!iss || !hint || !target) throw new LaunchRefused('missing');
  const fitting = known.filter((p) => p.issuer === iss && (client === undefined || p.clientId === client));
  const [platform] = fitting;
  if (!platform) throw new LaunchRefused('unknownPlatform');
  if (fitting.length > 1) throw new LaunchRefused('severalClients');
  if (!URL.canParse(target) || new URL(target).origin !== new URL(base).origin) throw new LaunchRefused('wrongTarget');
  const nonce = newSecret();
  const stored = said.lti_storage_target === undefined ? null : newSecret();
  const again = new URLSearchParams();
  for (const [key, value] of Object.entries(said) as [string, string | undefined][])
    if (value !== undefined && key !== 'lti_storage_target') again.set(key, value);
  const body: LaunchState = {
    p: platform.id,
    n: nonce,
    t: target,
    e: now + STATE_LIVES,
    v: stored === null ? null : hashOf(stored),
    q: again.toString().slice(0, 3000),
  };
  const text = Buffer.from(JSON.stringify(body)).toString('base64url');
  const state = `${text}.${seal.mark(`state ${text}`)}`;
  const to = new URL(platform.authEndpoint);
  const query = {
    scope: 'openid',
    response_type: 'id_token',
    response_mode: 'form_post',
    prompt: 'none',
    client_id: platform.clientId,
    redirect_uri: `${base}/lti/launch`,
    login_hint: hint,
    ...(said.lti_message_hint === undefined ? {} : { lti_message_hint: said.lti_message_hint }),
    state,
    nonce,
  };
  for (const [key, value] of Object.entries(query)) to.searchParams.set(key, value);
  return { platform, to: to.href, state, stored };
}

/** The cookie of a login is named by its state, so that two tabs launch at once. */
export const cookieOf = (seal: Seal, state: string) => ({
  name: `zest-bell-launch-${hashOf(state).slice(0, 16)}`,
  value: seal.mark(`cookie ${state}`),
});

/** Null for what was never given here, and for what is over. */
export function readState(seal: Seal, state: string, now = wallClock()): LaunchState | null {
  const [text = '', mark = ''] = state.split('.');
  if (!isSameText(mark, seal.mark(`state ${text}`))) return null;
  const body = JSON.parse(Buffer.from(text, 'base64url').toString('utf8')) as LaunchState;
  return body.e > now ? body : null;
}

export const againFrom = (base: string, { q }: LaunchState): string => `${base}/lti/login?${q}`;

/** The keys of platforms, fetched when an unknown one is named, and not more often than every ten seconds. */
export class PlatformKeys {
  private readonly outgoing: OutgoingClient;
  private readonly sets = new Map<string, ReturnType<typeof createRemoteJWKSet>>();

  constructor(outgoing: OutgoingClient) {
    this.outgoing = outgoing;
  }

  of(platform: PlatformRow): ReturnType<typeof createRemoteJWKSet> {
    const key = `${platform.id} ${platform.jwksUrl}`;
    const known = this.sets.get(key);
    if (known) return known;
    const origins = originsOf(platform);
    const made = createRemoteJWKSet(new URL(platform.jwksUrl), {
      cooldownDuration: 10_000,
      cacheMaxAge: 25_000,
      timeoutDuration: 5000,
      [customFetch]: async (url) => {
        const { status, text } = await this.outgoing.ask(String(url), { origins });
        return new Response(text, { status, headers: { 'content-type': 'application/json' } });
      },
    });
    this.sets.set(key, made);
    return made;
  }
}

const rolesSchema = z.array(z.string()).max(200);
const messageSchema = z.looseObject({
  sub: z.string().min(1).max(500),
  nonce: z.string(),
  name: z.string().max(300).optional().catch(undefined),
  given_name: z.string().max(150).optional().catch(undefined),
  family_name: z.string().max(150).optional().catch(undefined),
  email: z.string().max(320).optional().catch(undefined),
});

export interface LaunchMessage {
  readonly subject: string;
  readonly deployment: string;
  readonly roles: readonly string[];
  readonly name: { readonly given: string; readonly family: string; readonly whole: string };
  readonly email: string | null;
  readonly context: { readonly id: string; readonly label: string; readonly title: string };
  readonly custom: Readonly<Record<string, string>>;
  readonly namesUrl: string | null;
  readonly groupsUrl: string | null;
  readonly grades: { readonly url: string; readonly scopes: readonly string[] } | null;
}

/** Checks a message and reads it. Throws `LaunchRefused`. */
export async function readMessage(
  token: string,
  {
    platform,
    state,
    keys,
  }: { readonly platform: PlatformRow; readonly state: LaunchState; readonly keys: PlatformKeys },
): Promise<LaunchMessage> {
  const claims = await verified(token, platform, keys);
  const { aud, azp } = claims as JWTPayload & { azp?: unknown };
  if ((Array.isArray(aud) && aud.length > 1 && azp === undefined) || (azp !== undefined && azp !== platform.clientId))
    throw new LaunchRefused('wrongAudience');
  const read = messageSchema.safeParse(claims);
  if (!read.success) throw new LaunchRefused(claims.sub === undefined ? 'noUser' : 'unreadable');
  if (read.data.nonce !== state.n) throw new LaunchRefused('nonceForeign');
  const of = (name: string): unknown => claims[CLAIM + name];
  if (of('version') !== '1.3.0') throw new LaunchRefused('wrongVersion');
  if (of('message_type') !== 'LtiResourceLinkRequest') throw new LaunchRefused('wrongMessage');
  const deployment = of('deployment_id');
  if (typeof deployment !== 'string' || !platform.deployments.includes(deployment))
    throw new LaunchRefused('wrongDeployment');
  const roles = rolesSchema.safeParse(of('roles'));
  if (!roles.success) throw new LaunchRefused('unreadable');
  if (textIn(of('resource_link'), 'id') === '') throw new LaunchRefused('noResource');
  if (of('target_link_uri') !== state.t) throw new LaunchRefused('wrongTarget');
  const context = of('context');
  if (textIn(context, 'id') === '') throw new LaunchRefused('noContext');
  const endpoint = claims['https://purl.imsglobal.org/spec/lti-ags/claim/endpoint'];
  const names = claims['https://purl.imsglobal.org/spec/lti-nrps/claim/namesroleservice'];
  const groups = claims['https://purl.imsglobal.org/spec/lti-gs/claim/groupsservice'];
  const items = textIn(endpoint, 'lineitems');
  const scopes = rolesSchema.safeParse((endpoint as { scope?: unknown } | undefined)?.scope);
  const { sub, name = '', given_name: given = '', family_name: family = '', email } = read.data;
  return {
    subject: sub,
    deployment,
    roles: roles.data,
    email: email ?? null,
    name: { given, family, whole: name || `${given} ${family}`.trim() },
    context: { id: textIn(context, 'id'), label: textIn(context, 'label'), title: textIn(context, 'title') },
    custom: textsIn(of('custom')),
    namesUrl: textIn(names, 'context_memberships_url') || null,
    groupsUrl: textIn(groups, 'context_groups_url') || null,
    grades: items === '' ? null : { url: items, scopes: scopes.success ? scopes.data : [] },
  };
}

const textIn = (value: unknown, name: string): string => {
  const found = typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[name] : undefined;
  return typeof found === 'string' ? found.slice(0, 2000) : '';
};
const textsIn = (value: unknown): Record<string, string> =>
  Object.fromEntries(
    Object.entries(typeof value === 'object' && value !== null ? value : {}).filter(
      (e): e is [string, string] => typeof e[1] === 'string',
    ),
  );

async function verified(token: string, platform: PlatformRow, keys: PlatformKeys): Promise<JWTPayload> {
  try {
    const { payload } = await jwtVerify(token, keys.of(platform), {
      issuer: platform.issuer,
      audience: platform.clientId,
      algorithms: ['RS256'],
      clockTolerance: TOLERANCE,
      maxTokenAge: OLDEST,
      requiredClaims: ['iss', 'aud', 'exp', 'iat', 'nonce'],
    });
    return payload;
  } catch (error) {
    throw new LaunchRefused(codeOf(error));
  }
}

function codeOf(error: unknown): RefusalCode {
  if (error instanceof errors.JWTExpired) return error.claim === 'iat' ? 'tooOld' : 'expired';
  if (error instanceof errors.JWTClaimValidationFailed) {
    const { claim } = error;
    if (claim === 'iss') return 'wrongIssuer';
    if (claim === 'aud') return 'wrongAudience';
    if (claim === 'iat') return 'tooOld';
    return claim === 'exp' ? 'expired' : 'unreadable';
  }
  if (error instanceof errors.JOSEAlgNotAllowed) return 'wrongAlgorithm';
  if (error instanceof errors.JWKSNoMatchingKey) return 'unknownKey';
  if (error instanceof errors.JWSSignatureVerificationFailed) return 'forged';
  if (error instanceof errors.JWSInvalid || error instanceof errors.JWTInvalid) return 'unreadable';
  if (error instanceof errors.JOSENotSupported) return 'wrongAlgorithm';
  return 'keysUnreachable';
}
