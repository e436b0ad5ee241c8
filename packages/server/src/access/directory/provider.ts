/**
 * The institution's provider (OpenID Connect Core 1.0, Discovery 1.0, RFC 7636, RFC 9207), by `openid-client`: code flow with PKCE, state
 * and nonce. Each address is called through our own door for outgoing requests.
 */
import * as oidc from 'openid-client';
import { isAddress } from '@zest-bell/core/course';
import { MINUTE } from '@zest-bell/core/time';
import { OutgoingTrouble, type OutgoingClient } from '../../platform/http/outgoing.ts';
import { wallClock } from '../../platform/process/clock.ts';
import type { DirectorySettings } from './settings.ts';

/** Seconds that the provider's clock may be ahead or behind. */
const CLOCK_SKEW = 60;
/** What a provider says about itself is read again after this time. */
const METADATA_FOR = 10 * MINUTE;

/** Why nobody was signed in, in the words of the page that says so. */
const REFUSALS = {
  stateUnknown: 'This sign-in was not started in this browser, or it took longer than ten minutes. Sign in again.',
  notConnected: 'This installation is not connected to a sign-in of your institution.',
  providerRefused: 'You were not signed in there. Try again, or ask the people who run that sign-in.',
  unreachable: 'Your institution’s sign-in cannot be reached right now. Try again in a minute.',
  otherProvider:
    'The answer comes from another provider than the one that was asked. Tell the person who runs Zest Bell.',
  wrongIssuer: 'The answer names another issuer than the one that was asked. Tell the person who runs Zest Bell.',
  wrongAudience: 'The answer is for another application. Tell the person who runs Zest Bell.',
  wrongNonce: 'The answer does not belong to this sign-in. Sign in again.',
  forged: 'The signature of the answer is wrong. Tell the person who runs Zest Bell.',
  expired: 'The answer has expired, or a clock is wrong. Sign in again; then tell the person who runs Zest Bell.',
  codeUsed: 'This sign-in was used already, or it took too long. Sign in again.',
  notRecent: 'The provider did not ask who you are again. Sign in again.',
  tooWeak:
    'This installation requires a stronger way to sign in than the one you used. Sign in with your second factor there.',
  unreadable: 'The answer of your institution’s sign-in cannot be read. Tell the person who runs Zest Bell.',
  noAccount: 'You have no account here. Ask the person who runs Zest Bell.',
  otherAccount: 'You signed in there as somebody else than here. Sign out there, then try again.',
  joinNeedsAccount: 'You have no account to join with behind this sign-in yet. Sign in with it once, then try again.',
  joinNeedsFactor: 'Your account has a second factor. Join your accounts with your password and a code.',
  noSignOut: 'Your institution’s sign-in offers no address to sign out. Close your browser to sign out there.',
} as const;
export type DirectoryRefusal = keyof typeof REFUSALS;

export class DirectoryRefused extends Error {
  readonly code: DirectoryRefusal;

  constructor(code: DirectoryRefusal, options?: ErrorOptions) {
    super(REFUSALS[code], options);
    this.code = code;
  }
}

/** What one sign-in was begun with. */
export interface BegunSignIn {
  readonly state: string;
  readonly nonce: string;
  readonly verifier: string;
}

/** Whom the provider has signed in. */
export interface DirectoryPerson {
  readonly issuer: string;
  readonly subject: string;
  readonly name: string;
  /** In lower case; null where it gives none that is one. */
  readonly email: string | null;
  /** Whether it says that the address is theirs. */
  readonly isVerified: boolean;
  /** The methods that it names (RFC 8176). */
  readonly amr: readonly string[];
  /** All that it says, of the token and of its page about people. */
  readonly claims: Readonly<Record<string, unknown>>;
  /** Whether they can be signed out there. */
  readonly canSignOut: boolean;
}

/** Methods that name a second factor (RFC 8176, from memory). */
const SECOND_FACTORS = new Set(['mfa', 'mca', 'otp', 'hwk', 'swk', 'sc', 'sms', 'tel']);
export const namesFactor = ({ amr }: Pick<DirectoryPerson, 'amr'>): boolean => amr.some((m) => SECOND_FACTORS.has(m));

const ENDPOINTS = ['token_endpoint', 'userinfo_endpoint', 'jwks_uri'] as const;

export class Provider {
  private readonly outgoing: OutgoingClient;
  private known: { readonly issuer: string; readonly metadata: oidc.ServerMetadata; readonly until: number } | null =
    null;

  constructor(outgoing: OutgoingClient) {
    this.outgoing = outgoing;
  }

  /** The address at the provider, and what its answer has to fit. Throws `DirectoryRefused`. */
  async begin(settings: DirectorySettings, callback: string, { asksAgain = false } = {}) {
    const config = await this.configuration(settings);
    const begun: BegunSignIn = {
      state: oidc.randomState(),
      nonce: oidc.randomNonce(),
      verifier: oidc.randomPKCECodeVerifier(),
    };
    const to = oidc.buildAuthorizationUrl(config, {
      redirect_uri: callback,
      scope: 'openid profile email',
      state: begun.state,
      nonce: begun.nonce,
      code_challenge: await oidc.calculatePKCECodeChallenge(begun.verifier),
      code_challenge_method: 'S256',
      ...(settings.acr.length > 0 ? { acr_values: settings.acr.join(' ') } : {}),
      ...(asksAgain ? { prompt: 'login', max_age: '0' } : {}),
    });
    return { to: to.href, begun };
  }

  /** Whom an answer signs in; `answer` is the whole address that it came to. Throws `DirectoryRefused`. */
  async finish(
    settings: DirectorySettings,
    answer: URL,
    { state, nonce, verifier }: BegunSignIn,
    { asksAgain = false } = {},
  ): Promise<DirectoryPerson> {
    const config = await this.configuration(settings);
    try {
      const tokens = await oidc.authorizationCodeGrant(config, answer, {
        pkceCodeVerifier: verifier,
        expectedState: state,
        expectedNonce: nonce,
        idTokenExpected: true,
        ...(asksAgain ? { maxAge: 0 } : {}),
      });
      const token = tokens.claims();
      if (!token) throw new DirectoryRefused('unreadable');
      const metadata = config.serverMetadata();
      const more =
        metadata.userinfo_endpoint === undefined
          ? {}
          : await oidc.fetchUserInfo(config, tokens.access_token, token.sub);
      const claims: Record<string, unknown> = { ...more, ...token };
      mustBeStrong(settings, claims);
      return personOf(token.iss, token.sub, claims, metadata.end_session_endpoint !== undefined);
    } catch (error) {
      throw refusalOf(error);
    }
  }

  /** Where somebody signs out at the provider; null where it has no such address. Throws `DirectoryRefused`. */
  async signOutAddress(settings: DirectorySettings, back: string): Promise<string | null> {
    const config = await this.configuration(settings);
    if (config.serverMetadata().end_session_endpoint === undefined) return null;
    return oidc.buildEndSessionUrl(config, { post_logout_redirect_uri: back }).href;
  }

  /**
   * What the provider says about itself is kept for a while; its keys are fetched at each sign-in, so that it may change them at any
   * moment. Throws `DirectoryRefused`.
   */
  async configuration({ issuer, clientId, secret }: DirectorySettings, now = wallClock()): Promise<oidc.Configuration> {
    if (this.known?.issuer !== issuer || this.known.until <= now) {
      const found = await oidc
        .discovery(new URL(issuer), clientId, undefined, undefined, {
          [oidc.customFetch]: this.fetching([new URL(issuer).origin]),
          execute: [oidc.allowInsecureRequests],
        })
        .catch((error: unknown) => {
          throw refusalOf(error);
        });
      this.known = { issuer, metadata: found.serverMetadata(), until: now + METADATA_FOR };
    }
    const { metadata } = this.known;
    const methods = metadata.token_endpoint_auth_methods_supported ?? ['client_secret_basic'];
    const authentication =
      secret === null
        ? oidc.None()
        : methods.includes('client_secret_basic')
          ? oidc.ClientSecretBasic(secret)
          : oidc.ClientSecretPost(secret);
    const config = new oidc.Configuration(metadata, clientId, { [oidc.clockTolerance]: CLOCK_SKEW }, authentication);
    // Which addresses may be called without TLS is said by our own door.
    oidc.allowInsecureRequests(config);
    // Signatures are checked, though the tokens come straight from the provider.
    oidc.enableNonRepudiationChecks(config);
    const origins = ENDPOINTS.flatMap((name) => metadata[name] ?? []).map((url) => new URL(url).origin);
    config[oidc.customFetch] = this.fetching([new URL(issuer).origin, ...origins]);
    return config;
  }

  private fetching(origins: readonly string[]): oidc.CustomFetch {
    return async (url, { method, headers, body }) => {
      const came = await this.outgoing.ask(url, {
        method: method === 'POST' ? 'POST' : 'GET',
        headers,
        ...(body == null ? {} : { body: bodyText(body) }),
        origins,
      });
      const said = Object.entries(came.headers).filter((h): h is [string, string] => typeof h[1] === 'string');
      return new Response(came.text === '' ? null : came.text, { status: came.status, headers: said });
    };
  }
}

const bodyText = (body: oidc.FetchBody): string => {
  if (typeof body === 'string') return body;
  if (body instanceof URLSearchParams) return body.toString();
  throw new Error('The library sends a body of another kind');
};

/** Throws `tooWeak` where neither the class nor the methods are those that an administrator asks for. */
function mustBeStrong({ acr, amr }: DirectorySettings, claims: Readonly<Record<string, unknown>>): void {
  if (acr.length > 0 && !acr.includes(text(claims['acr']))) throw new DirectoryRefused('tooWeak');
  if (amr.length > 0 && !texts(claims['amr']).some((method) => amr.includes(method)))
    throw new DirectoryRefused('tooWeak');
}

const text = (value: unknown): string => (typeof value === 'string' ? value.trim() : '');
const texts = (value: unknown): string[] =>
  Array.isArray(value) ? value.filter((v): v is string => typeof v === 'string') : [];

function personOf(
  issuer: string,
  subject: string,
  claims: Readonly<Record<string, unknown>>,
  canSignOut: boolean,
): DirectoryPerson {
  const address = text(claims['email']).toLowerCase();
  const email = isAddress(address) ? address : null;
  const whole = text(claims['name']) || [claims['given_name'], claims['family_name']].map(text).join(' ').trim();
  return {
    issuer,
    subject,
    name: (whole || email?.split('@')[0] || 'Somebody').slice(0, 120),
    email,
    isVerified: email !== null && claims['email_verified'] === true,
    amr: texts(claims['amr']),
    claims,
    canSignOut,
  };
}

/** Whether a person has a value of a claim, alone or in a list. */
export const hasClaim = ({ claims }: Pick<DirectoryPerson, 'claims'>, claim: string, value: string): boolean =>
  [claims[claim]].flat().includes(value);

const CLAIM_REFUSALS: Readonly<Record<string, DirectoryRefusal>> = {
  iss: 'wrongIssuer',
  aud: 'wrongAudience',
  azp: 'wrongAudience',
  nonce: 'wrongNonce',
  auth_time: 'notRecent',
};

function refusalOf(error: unknown): DirectoryRefused {
  const chain: unknown[] = [];
  for (let at = error; at instanceof Error && chain.length < 10; at = at.cause) chain.push(at);
  const found = chain.find((e) => e instanceof DirectoryRefused);
  if (found) return found;
  return new DirectoryRefused(codeOf(chain), { cause: error });
}

function codeOf(chain: readonly unknown[]): DirectoryRefusal {
  if (chain.some((e) => e instanceof OutgoingTrouble)) return 'unreachable';
  // The library wraps what it found: the innermost says which claim it was.
  const claim = chain.map((e) => ((e as Error).cause as { readonly claim?: string } | undefined)?.claim).find(Boolean);
  for (const error of chain) {
    if (error instanceof oidc.AuthorizationResponseError) return 'providerRefused';
    if (error instanceof oidc.ResponseBodyError)
      return error.error === 'invalid_grant' ? 'codeUsed' : 'providerRefused';
    const { code, message } = error as Error & { readonly code?: string };
    if (code === 'OAUTH_JWT_TIMESTAMP_CHECK_FAILED') return claim === 'auth_time' ? 'notRecent' : 'expired';
    if (code === 'OAUTH_JWT_CLAIM_COMPARISON_FAILED') return CLAIM_REFUSALS[claim ?? ''] ?? 'unreadable';
    if (code === 'OAUTH_KEY_SELECTION_FAILED') return 'forged';
    if (/signature/.test(message)) return 'forged';
    if (/"nonce"/.test(message)) return 'wrongNonce';
    if (/"iss" \(issuer\)/.test(message)) return 'otherProvider';
  }
  return chain.some((e) => e instanceof TypeError) ? 'unreachable' : 'unreadable';
}
