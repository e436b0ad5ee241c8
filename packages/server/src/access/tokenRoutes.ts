/** Tokens of a course, as its owners see them. */
import { contract } from '@zest-bell/core/contract';
import type { TokenLine } from '@zest-bell/core/exchange';
import { accountActor } from '@zest-bell/core/access';
import { DAY } from '@zest-bell/core/time';
import { AppError } from '../platform/errors/errors.ts';
import { actorNames } from './audit.ts';
import { idOf } from './pathIds.ts';
import type { Door } from './door.ts';
import { TokenRow, tokenHolds } from './entity.ts';
import type { AccountServices } from './signIn.ts';
import { makeToken } from './tokens.ts';
import { wallClock } from '../platform/process/clock.ts';
import { updateRows } from '../platform/database/writing.ts';
import { holdingCourse } from './holding.ts';

const MOST_TOKENS = 100;

export function tokenRoutes(door: Door, { orm, reading }: AccountServices): void {
  door.on(contract.people.tokens, async ({ course }) => {
    const em = reading.em.fork();
    const rows = await em.find(TokenRow, { course }, { orderBy: { id: 'desc' }, limit: 200 });
    const maker = ({ madeBy }: TokenRow) => (madeBy == null ? null : accountActor(madeBy));
    const name = await actorNames(em, rows.map(maker));
    return rows.map((row) => lineOf(row, name(maker(row)), wallClock()));
  });

  door.on(contract.people.makeToken, async ({ course, account, body: { name, capabilities, endsOn } }) => {
    const now = wallClock();
    // To the end of the day anywhere on Earth: the day after, at noon in Greenwich.
    const endsAt = endsOn === null ? null : Date.parse(`${endsOn}T12:00:00Z`) + DAY;
    if (endsAt !== null && endsAt - DAY < now - DAY)
      throw new AppError('invalidInput', [{ path: 'endsOn', code: 'past', message: 'Choose a day after today' }]);
    return holdingCourse(orm, course, async (tx) => {
      if ((await tx.count(TokenRow, { course, revokedAt: null })) >= MOST_TOKENS)
        throw new AppError('invalidInput', [
          { path: 'name', code: 'tooMany', message: `A course has at most ${MOST_TOKENS} tokens. Revoke one first` },
        ]);
      return makeToken(tx, { course, name, capabilities: [...new Set(capabilities)], madeBy: account, endsAt });
    });
  });

  door.on(contract.people.revokeToken, async ({ course, path }) => {
    const row = { course, id: idOf(path.token), revokedAt: null };
    const ended = await holdingCourse(orm, course, (tx) => updateRows(tx, tokenHolds, row, { revokedAt: wallClock() }));
    if (ended === 0) throw new AppError('notFound');
  });
}

function lineOf(row: TokenRow, by: string, now: number): TokenLine {
  const { id, name, capabilities, madeAt, endsAt, usedAt, revokedAt } = row;
  const state = revokedAt != null ? 'revoked' : endsAt != null && endsAt <= now ? 'ended' : 'works';
  return { id, name, capabilities, by, at: madeAt, endsAt: endsAt ?? null, usedAt: usedAt ?? null, state };
}
