/**
 * Registering by the platform itself (LTI Dynamic Registration 1.0, from memory): at an address that works once and belongs to an origin
 * that an administrator typed. What comes of it waits for a yes.
 */
import { z } from 'zod';
import type { RegistrationAddress } from '@zest-bell/core/connections';
import { hashOf, newSecret } from '../../access/passwords.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { jsonOf, mustBeGood, OutgoingTrouble } from '../../platform/http/outgoing.ts';
import type { Tx } from '../../platform/database/orm.ts';
import { inTransaction } from '../../platform/database/transaction.ts';
import type { ConnectionServices } from '../services.ts';
import { PlatformRow, RegistrationCodeRow, registrationCodeHolds, platformHolds } from './entity.ts';
import { TOOL_CLAIM, toolRegistration } from './tool.ts';
import { shownBy, wallClock } from '../../platform/process/clock.ts';
import { insertRow, removeRows, updateRow } from '../../platform/database/writing.ts';
import { inInstallation } from '../../access/holding.ts';

/** How long an address to register at works, in ms. */
const CODE_LIVES = 3_600_000;

const REFUSALS = {
  codeUnknown:
    'This address was used already, or is older than an hour. An administrator of Zest Bell makes a new one.',
  otherOrigin:
    'The platform names addresses on another origin than the one that was typed in Zest Bell. An administrator makes an address for that origin.',
  unreadable: 'What the platform says of itself cannot be read. Register it by hand.',
  unreachable: 'The platform could not be asked. Try again in a minute.',
  refused: 'The platform did not take the registration. Look at its own page.',
  known: 'This platform is registered in Zest Bell under this client id already.',
} as const;

export class RegistrationRefused extends Error {
  readonly code: keyof typeof REFUSALS;
  constructor(code: keyof typeof REFUSALS) {
    super(REFUSALS[code]);
    this.code = code;
  }
}

/** An address at which a platform of an origin may register once. Throws `invalidInput` for one that is not called. */
export async function registrationAddress(
  { orm, outgoing, clock }: Pick<ConnectionServices, 'orm' | 'outgoing' | 'clock'>,
  { origin, base }: { readonly origin: string; readonly base: string },
): Promise<RegistrationAddress> {
  const why = outgoing.whyNot(origin);
  if (why !== null) throw new AppError('invalidInput', [{ path: 'origin', code: 'address', message: why }]);
  const code = newSecret();
  const endsAt = wallClock() + CODE_LIVES;
  await inTransaction(orm, async (tx) => {
    await removeRows(tx, registrationCodeHolds, { endsAt: { $lt: wallClock() } });
    await insertRow(tx, registrationCodeHolds, { hash: hashOf(code), origin, endsAt });
  });
  return { address: `${base}/lti/register?code=${code}`, endsAt: shownBy(clock, endsAt) };
}

const endpoint = z.url({ protocol: /^https?$/ }).max(500);
const configurationSchema = z.looseObject({
  issuer: endpoint,
  authorization_endpoint: endpoint,
  token_endpoint: endpoint,
  jwks_uri: endpoint,
  registration_endpoint: endpoint,
});
const registeredSchema = z.looseObject({
  client_id: z.string().min(1).max(300),
  [TOOL_CLAIM]: z.looseObject({ deployment_id: z.string().min(1).max(300).optional() }).optional(),
});

export interface RegistrationRequest {
  readonly code: string;
  /** Where the platform says what it is. */
  readonly configuration: string;
  /** What the platform lets the tool in by. */
  readonly token: string | null;
  readonly base: string;
}

/** Registers, and leaves the platform waiting for a yes. Returns the origin. Throws `RegistrationRefused`. */
export async function register(
  services: Pick<ConnectionServices, 'orm' | 'outgoing'>,
  asked: RegistrationRequest,
): Promise<string> {
  const { orm } = services;
  const { origin } = await codeOf(services, asked.code);
  const isThere = (url: string) => URL.canParse(url) && new URL(url).origin === origin;
  if (!isThere(asked.configuration)) throw new RegistrationRefused('otherOrigin');
  const said = configurationSchema.safeParse(await ask(services, asked.configuration, origin));
  if (!said.success) throw new RegistrationRefused('unreadable');
  const { issuer, authorization_endpoint, token_endpoint, jwks_uri, registration_endpoint } = said.data;
  if (![issuer, authorization_endpoint, token_endpoint, jwks_uri, registration_endpoint].every(isThere))
    throw new RegistrationRefused('otherOrigin');
  const answer = registeredSchema.safeParse(
    await ask(services, registration_endpoint, origin, { body: toolRegistration(asked.base), token: asked.token }),
  );
  if (!answer.success) throw new RegistrationRefused('unreadable');
  const { client_id: clientId } = answer.data;
  const deployment = (answer.data[TOOL_CLAIM] as { deployment_id?: string } | undefined)?.deployment_id;
  await inInstallation(orm, async (tx) => {
    if ((await removeRows(tx, registrationCodeHolds, { hash: hashOf(asked.code) })) === 0)
      throw new RegistrationRefused('codeUnknown');
    if ((await tx.count(PlatformRow, { issuer, clientId })) > 0) throw new RegistrationRefused('known');
    await insertRow(tx, platformHolds, {
      issuer,
      clientId,
      deployments: deployment === undefined ? [] : [deployment],
      authEndpoint: authorization_endpoint,
      tokenEndpoint: token_endpoint,
      jwksUrl: jwks_uri,
      tokenAudience: null,
      frameOrigins: [],
      serviceOrigins: [],
      addedAt: wallClock(),
      approvedAt: null,
    });
  });
  return origin;
}

async function codeOf({ orm }: Pick<ConnectionServices, 'orm'>, code: string): Promise<RegistrationCodeRow> {
  const row = await orm.em.fork().findOne(RegistrationCodeRow, { hash: hashOf(code) });
  if (!row || row.endsAt < wallClock()) throw new RegistrationRefused('codeUnknown');
  return row;
}

async function ask(
  { outgoing }: Pick<ConnectionServices, 'outgoing'>,
  url: string,
  origin: string,
  post?: { readonly body: object; readonly token: string | null },
): Promise<unknown> {
  try {
    const came = await outgoing.ask(url, {
      origins: [origin],
      ...(post && {
        method: 'POST' as const,
        body: JSON.stringify(post.body),
        headers: {
          'content-type': 'application/json',
          ...(post.token === null ? {} : { authorization: `Bearer ${post.token}` }),
        },
      }),
    });
    mustBeGood(came, url);
    return jsonOf(came, url);
  } catch (error) {
    if (!(error instanceof OutgoingTrouble)) throw error;
    if (error.code === 'garbage') throw new RegistrationRefused('unreadable');
    if (error.code === 'forbiddenAddress') throw new RegistrationRefused('otherOrigin');
    throw new RegistrationRefused(error.status > 0 && post ? 'refused' : 'unreachable');
  }
}

/** Lets a platform launch that registered itself; its deployments are its own, or those that somebody typed. */
export async function approve(tx: Tx<'installation'>, id: number, deployments: readonly string[]): Promise<void> {
  const row = await tx.findOne(PlatformRow, { id });
  if (!row) throw new AppError('notFound');
  const named = deployments.length > 0 ? deployments : row.deployments;
  if (named.length === 0)
    throw new AppError('invalidInput', [
      { path: 'deployments', code: 'missing', message: 'The platform named no deployment. Type its id' },
    ]);
  await updateRow(tx, platformHolds, row, { deployments: named, approvedAt: row.approvedAt ?? wallClock() });
}
