/** Taking in a file that goes with messages, and showing it again. */
import express, { Router } from 'express';
import { z } from 'zod';
import { MOST_FILE_BYTES, type FileRef } from '@zest-bell/core';
import { courseOf } from '../accounts/routes.ts';
import { AppError } from '../platform/errors.ts';
import { parseInput } from '../platform/http.ts';
import type { Services } from '../services.ts';
import { inTransaction } from '../platform/transaction.ts';
import { kindOf, plainName } from './kinds.ts';
import { findFile, hasRoom, takeFile } from './repository.ts';

const querySchema = z.object({ name: z.string().min(1).max(300) });

export function fileRoutes({ orm, reading, clock }: Services): Router {
  const router = Router({ mergeParams: true });

  // A little more than the limit is read, so that the refusal can say how large it was.
  const bytes = express.raw({ type: 'application/octet-stream', limit: 2 * MOST_FILE_BYTES });

  router.post('/', bytes, async (req, res) => {
    const id = await courseOf(reading, req);
    const name = plainName(parseInput(querySchema, req.query).name);
    const content = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
    const kind = kindOf(name, content);
    const refused = (why: string) =>
      new AppError('invalidInput', [{ path: 'file', code: 'fileRefused', message: `“${name}”: ${why}` }]);
    if (typeof kind === 'string') throw refused(kind);
    const file = { name, type: kind.type, bytes: content };
    const answer = await inTransaction(orm, async (em) => {
      if (!(await hasRoom(em, id, content.length))) throw refused('This course has 200 MB of files already');
      return takeFile(em, id, file, clock.now());
    });
    res.status(201).json(answer satisfies FileRef);
  });

  router.get('/:file', async (req, res) => {
    const id = await courseOf(reading, req);
    const file = await findFile(reading.em.fork(), id, req.params.file);
    if (!file) throw new AppError('notFound');
    const shown = file.type.startsWith('image/');
    res.attachment(file.name).type(file.type);
    if (shown) res.set('content-disposition', 'inline').set('cache-control', 'private, max-age=86400');
    res.send(file.bytes);
  });

  return router;
}
