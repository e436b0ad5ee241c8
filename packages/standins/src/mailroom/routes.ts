/** The Mailroom's own routes: the mailboxes of the people on one's rosters, and their letters. */
import { Router, type Request } from 'express';
import type { Letter, LetterLine, Mailbox } from '@zest-bell/core';
import type { Letters } from './letters.ts';

export interface Owner {
  readonly address: string;
  readonly name: string;
  readonly role: string;
}

/** `ownersFor`: the people whose mail the signed-in person may open in the demo. */
export function mailroomRoutes(letters: Letters, ownersFor: (req: Request) => Promise<readonly Owner[]>): Router {
  const router = Router();

  router.get('/mailroom', async (req, res) => {
    const boxes = (await ownersFor(req)).map((owner): Mailbox => {
      const of = letters.of(owner.address);
      return {
        ...owner,
        letters: of.length,
        unread: of.filter((l) => !letters.isRead(l.id)).length,
        latestAt: of.at(-1)?.at ?? null,
      };
    });
    res.json(boxes.sort((a, b) => (b.latestAt ?? 0) - (a.latestAt ?? 0) || a.name.localeCompare(b.name)));
  });

  router.get('/mailroom/:address', async (req, res, next) => {
    const owners = await ownersFor(req);
    if (!owners.some((o) => o.address.toLowerCase() === req.params.address.toLowerCase())) return next();
    const lines = letters.of(req.params.address).map(({ id, at, from, subject, firstLine }): LetterLine => {
      return { id, at, from, subject, firstLine, read: letters.isRead(id) };
    });
    res.json(lines.reverse());
  });

  router.get('/mailroom/:address/:letter', async (req, res, next) => {
    const owners = await ownersFor(req);
    const letter: Letter | null = letters.get(req.params.letter);
    const mine = owners.some((o) => o.address.toLowerCase() === letter?.to.toLowerCase());
    if (!letter || !mine) return next();
    letters.markRead(letter.id);
    res.json(letter);
  });

  return router;
}
