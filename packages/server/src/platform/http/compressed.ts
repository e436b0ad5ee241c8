/** Answers leave compressed. One that is made for a page that waits is compressed quickly; what browsers keep, thoroughly. */
import { constants } from 'node:zlib';
import compression from 'compression';
import type { RequestHandler } from 'express';
import { LINES_TYPE } from './http.ts';

/** Columns of a large class, 3.5 MB, took five times as long with the thorough one, and came out a tenth smaller. */
const QUICK = { brotli: 1, gzip: 1 };
const THOROUGH = { brotli: 4, gzip: 6 };

/** `isMade`: whether an answer is made for this request. */
export function compressed(isMade: (path: string) => boolean): RequestHandler {
  const [quickly, thoroughly] = [compressing(QUICK), compressing(THOROUGH)];
  return (req, res, next) => {
    (isMade(req.path) ? quickly : thoroughly)(req, res, next);
  };
}

const compressing = ({ brotli, gzip }: typeof QUICK): RequestHandler =>
  compression({
    level: gzip,
    brotli: { params: { [constants.BROTLI_PARAM_QUALITY]: brotli } },
    filter: (req, res) => res.get('content-type')?.startsWith(LINES_TYPE) || compression.filter(req, res),
  });
