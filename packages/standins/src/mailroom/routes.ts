/** The Mailroom's own routes: the mailboxes of the people on one's rosters, and their letters. */
import { Router, type Request } from 'express';
import type { Letter, LetterLine, Mailbox } from '@zest-bell/core';
import { z } from 'zod';
import type { Clock } from '@zest-bell/core';
import { ANSWER_KINDS, sendAnswer } from './answers.ts';
import type { Letters } from './letters.ts';
import { MAILROOM_MODES, type Switches } from './switches.ts';

/** What answers and switches need beside the letters. */
export interface Desk {
  readonly switches: Switches;
  readonly clock: Clock;
  /** The port at which an address takes mail. */
  readonly portOf: (address: string) => number;
}

const modeSchema = z.strictObject({ mode: z.enum(MAILROOM_MODES) });
const refusingSchema = z.strictObject({ refusing: z.boolean() });
const answerSchema = z.strictObject({ kind: z.enum(ANSWER_KINDS), text: z.string().max(10_000) });

export interface Owner {
  readonly address: string;
  readonly name: string;
  readonly role: string;
}

/** `ownersFor`: the people whose mail the signed-in person may open in the demo. */
export function mailroomRoutes(
  letters: Letters,
  ownersFor: (req: Request) => Promise<readonly Owner[]>,
  desk: Desk,
): Router {
  const router = Router();

  router.get('/mailroom-server', (_req, res) => {
    res.json({ mode: desk.switches.mode });
  });

  router.post('/mailroom-server', (req, res, next) => {
    const parsed = modeSchema.safeParse(req.body);
    if (!parsed.success) return next(parsed.error);
    desk.switches.setMode(parsed.data.mode);
    res.json({ mode: desk.switches.mode });
  });

  /** A mailbox refuses mail, or takes it again. */
  router.post('/mailroom/:address/refusing', async (req, res, next) => {
    const parsed = refusingSchema.safeParse(req.body);
    const owners = await ownersFor(req);
    const mine = owners.some((o) => o.address.toLowerCase() === req.params.address.toLowerCase());
    if (!parsed.success || !mine) return next(parsed.error);
    desk.switches.setRefusing(req.params.address, parsed.data.refusing);
    res.status(204).end();
  });

  router.post('/mailroom/:address/:letter/answer', async (req, res, next) => {
    const parsed = answerSchema.safeParse(req.body);
    const owner = (await ownersFor(req)).find((o) => o.address.toLowerCase() === req.params.address.toLowerCase());
    const letter = letters.get(req.params.letter);
    if (!parsed.success) return next(parsed.error);
    if (!owner || !letter || letter.to.toLowerCase() !== owner.address.toLowerCase()) return next();
    const { kind, text } = parsed.data;
    await sendAnswer({ kind, text, letter, name: owner.name, clock: desk.clock, portOf: desk.portOf });
    res.status(204).end();
  });

  router.get('/mailroom', async (req, res) => {
    const boxes = (await ownersFor(req)).map((owner): Mailbox => {
      const own = letters.of(owner.address);
      return {
        ...owner,
        letters: own.length,
        unread: own.filter((l) => !letters.isRead(l.id)).length,
        latestAt: own.at(-1)?.at ?? null,
        refusing: desk.switches.refuses(owner.address),
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
