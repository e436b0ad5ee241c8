import { p } from '@mikro-orm/core';
import type { Actor } from '@zest-bell/core/access';

/** Who did something. */
export const actorColumn = () => p.string().$type<Actor>();
