/** The application's own page within a platform: for a session of a launch alone, and for that platform alone. */
import type { RequestHandler } from 'express';
import type { Services } from '../services.ts';
import { PlatformRow } from './entity.ts';
import { framedBy } from './platforms.ts';
import { frameable } from './routes.ts';

export const framing =
  ({ reading }: Pick<Services, 'reading'>): RequestHandler =>
  async (req, res, next) => {
    const { launch } = req.session;
    const platform = launch && (await reading.em.fork().findOne(PlatformRow, { id: launch.platform }));
    if (platform) frameable(res, framedBy(platform));
    next();
  };
