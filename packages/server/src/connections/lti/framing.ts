/** The application's own page within a platform: for a session of a launch alone, and for that platform alone. */
import type { RequestHandler, Response } from 'express';
import type { ConnectionServices } from '../services.ts';
import { PlatformRow } from './entity.ts';
import { framedBy } from './platforms.ts';

export const framing =
  ({ reading }: Pick<ConnectionServices, 'reading'>): RequestHandler =>
  async (req, res, next) => {
    const { launch } = req.session;
    const platform = launch && (await reading.em.fork().findOne(PlatformRow, { id: launch.platform }));
    if (platform) frameable(res, framedBy(platform));
    next();
  };

/** A page that a platform may show within its own. */
export function frameable(res: Response, origins: readonly string[]): void {
  const policy = String(res.getHeader('content-security-policy') ?? '');
  const allowed = ["'self'", ...origins].join(' ');
  res.set('content-security-policy', policy.replace(/frame-ancestors [^;]*/, `frame-ancestors ${allowed}`));
}
