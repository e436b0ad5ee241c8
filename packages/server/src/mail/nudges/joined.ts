/** Nudges (`n`) with each of their messages (`m`). */
import type { Em } from '../../platform/database/orm.ts';
import type { Knex } from '@mikro-orm/knex';

/**
 * SQLite keeps the order of a cross join: it finds the nudges first, and then their messages. For a plain join it would begin with the state
 * of the message, which nearly all have in common.
 */
export function nudgesWithMessages(em: Em): Knex.QueryBuilder {
  const knex = em.getKnex();
  return knex('nudge as n').joinRaw('cross join message as m').where('m.nudge', knex.ref('n.id'));
}
