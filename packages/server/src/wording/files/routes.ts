/** Taking in a file that goes with messages, and showing it again. */
import { raw } from 'express';
import { MOST_FILE_BYTES, type FileRef } from '@zest-bell/core/wording';
import { SENT, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { CourseServices } from '../../course/services.ts';
import { kindOf, plainName } from './kinds.ts';
import { findFile, hasRoom, storeAttachment } from './repository.ts';
import { inCourse } from '../../course/lock.ts';

export function fileRoutes(door: Door, { orm, reading, clock }: CourseServices): void {
  // A little more than the limit is read, so that the refusal can say how large it was.
  const reader = raw({ type: 'application/octet-stream', limit: 2 * MOST_FILE_BYTES });

  door.on(
    contract.wording.bringFile,
    async ({ course: id, query, req }) => {
      const name = plainName(query.name);
      const content = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
      const kind = kindOf(name, content);
      const refused = (why: string) =>
        new AppError('invalidInput', [{ path: 'file', code: 'fileRefused', message: `“${name}”: ${why}` }]);
      if (typeof kind === 'string') throw refused(kind);
      const file = { name, type: kind.type, bytes: content };
      const answer = await inCourse(orm, id, async (em) => {
        if (!(await hasRoom(em, id, content.length))) throw refused('This course has 200 MB of files already');
        return storeAttachment(em, id, file, clock.now());
      });
      return answer satisfies FileRef;
    },
    { reader },
  );

  door.on(contract.wording.file, async ({ course: id, path, res }) => {
    const file = await findFile(reading.em.fork(), id, path.file);
    if (!file) throw new AppError('notFound');
    const shown = file.type.startsWith('image/');
    res.attachment(file.name).type(file.type);
    if (shown) res.set('content-disposition', 'inline').set('cache-control', 'private, max-age=86400');
    res.send(file.bytes);
    return SENT;
  });
}
