/**
 * A provider in a process of its own (`oidc-provider`): it signs in the person it is given, and tampers with its tokens on request.
 * It is told by messages, and says its address by one.
 */
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { decodeJwt, exportJWK, generateKeyPair, SignJWT, type CryptoKey, type JWK, type JWTPayload } from 'jose';
import OidcProvider from 'oidc-provider';

/** What it does from now on; what is left out is as usual. */
export interface ProviderOrders {
  /** Whom it signs in. */
  readonly person?: { readonly sub: string; readonly [claim: string]: unknown };
  /** Claims of the ID token that become others; a null goes. */
  readonly claims?: Readonly<Record<string, unknown>>;
  /** With which key it signs: one that it publishes from now on, or one that it does not publish. */
  readonly key?: 'next' | 'stray';
}

const REDIRECTS = process.argv.slice(2);
const ALG = 'RS256';
let orders: ProviderOrders = {};

interface SigningKey {
  readonly kid: string;
  readonly privateKey: CryptoKey;
  readonly publicJwk: JWK;
  readonly privateJwk: JWK;
}

async function newKey(kid: string): Promise<SigningKey> {
  const { privateKey, publicKey } = await generateKeyPair(ALG, { extractable: true });
  const more = { kid, alg: ALG, use: 'sig' };
  return {
    kid,
    privateKey,
    publicJwk: { ...(await exportJWK(publicKey)), ...more },
    privateJwk: { ...(await exportJWK(privateKey)), ...more },
  };
}

const keys = { usual: await newKey('usual'), next: await newKey('next'), stray: await newKey('stray') };

const server = createServer();
await new Promise<void>((ready) => void server.listen(0, '127.0.0.1', () => ready()));
const issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;

const provider = new OidcProvider(issuer, {
  clients: [
    {
      client_id: 'zest-bell',
      client_secret: 'a secret of the provider',
      redirect_uris: REDIRECTS,
      post_logout_redirect_uris: REDIRECTS.map((r) => `${new URL(r).origin}/`),
    },
  ],
  jwks: { keys: [keys.usual.privateJwk] as never },
  cookies: { keys: ['one of the test'] },
  claims: { openid: ['sub'], email: ['email', 'email_verified'], profile: ['name', 'affiliation'] },
  features: { devInteractions: { enabled: false } },
  interactions: { url: (_ctx, { uid }) => `/interaction/${uid}` },
  findAccount: (_ctx, sub) => ({ accountId: sub, claims: () => ({ ...orders.person, sub }) }),
  loadExistingGrant: async (ctx) => {
    const grant = new ctx.oidc.provider.Grant({
      clientId: ctx.oidc.client!.clientId,
      accountId: ctx.oidc.session!.accountId!,
    });
    grant.addOIDCScope('openid profile email');
    await grant.save();
    return grant;
  },
});

provider.use(async (ctx, next) => {
  if (ctx.path.startsWith('/interaction/')) {
    const accountId = orders.person?.sub;
    const result = accountId === undefined ? { error: 'access_denied' } : { login: { accountId } };
    ctx.status = 303;
    ctx.redirect(await provider.interactionResult(ctx.req, ctx.res, result));
    return;
  }
  await next();
  if (ctx.path === '/jwks' && orders.key === 'next') ctx.body = { keys: [keys.next.publicJwk] };
  const body = ctx.body as { id_token?: string } | undefined;
  if (ctx.path === '/token' && body?.id_token !== undefined) {
    const claims = { ...decodeJwt(body.id_token), ...orders.claims };
    const kept = Object.fromEntries(Object.entries(claims).filter(([, v]) => v !== null)) as JWTPayload;
    const key = keys[orders.key ?? 'usual'];
    // A stray key says that it is the usual one.
    const kid = key === keys.stray ? keys.usual.kid : key.kid;
    const token = await new SignJWT(kept).setProtectedHeader({ alg: ALG, kid }).sign(key.privateKey);
    ctx.body = { ...body, id_token: token };
  }
});

const answers = provider.callback();
server.on('request', (req, res) => void answers(req, res));
process.on('message', (said: ProviderOrders) => {
  orders = said;
  process.send?.('done');
});
process.on('disconnect', () => process.exit(0));
process.send?.(issuer);
