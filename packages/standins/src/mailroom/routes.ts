/** The Mailroom's own routes: the mailboxes of the people on one's rosters, and their letters. */
import type { Clock } from '@zest-bell/core/time';
import type { Letter, LetterLine, Mailbox } from '@zest-bell/core/exchange';
import { contract, type Serve } from '@zest-bell/core/contract';
import { sendAnswer } from './answers.ts';
import type { Letters } from './letters.ts';
import type { Switches } from './switches.ts';

/** What answers and switches need beside the letters. */
export interface MailroomServices {
  readonly switches: Switches;
  readonly clock: Clock;
  /** The port at which an address takes mail. */
  readonly portOf: (address: string) => number;
}

export interface MailboxOwner {
  readonly address: string;
  readonly name: string;
  readonly role: string;
}

/** `ownersFor`: the people of the demo who let an account open their mail. `lost`: the server's words for a missing page. */
export function mailroomRoutes(
  serve: Serve,
  letters: Letters,
  ownersFor: (account: number) => Promise<readonly MailboxOwner[]>,
  desk: MailroomServices,
  lost: () => Error,
): void {
  const { demo } = contract;
  const isSame = (a: string, b: string) => a.toLowerCase() === b.toLowerCase();
  const ownerOf = async (account: number, address: string): Promise<MailboxOwner> => {
    const owner = (await ownersFor(account)).find((o) => isSame(o.address, address));
    if (!owner) throw lost();
    return owner;
  };
  const letterOf = async (account: number, id: string): Promise<{ owner: MailboxOwner; letter: Letter }> => {
    const letter = letters.get(id);
    if (!letter) throw lost();
    return { letter, owner: await ownerOf(account, letter.to) };
  };

  serve(demo.mailServer, () => ({ mode: desk.switches.mode }));

  serve(demo.setMailServer, ({ body: { mode } }) => {
    desk.switches.setMode(mode);
    return { mode };
  });

  serve(demo.refuse, async ({ account, path: { address }, body: { refusing } }) => {
    await ownerOf(account, address);
    desk.switches.setRefusing(address, refusing);
    return undefined;
  });

  serve(demo.answerLetter, async ({ account, path, body: { kind, text } }) => {
    const { letter, owner } = await letterOf(account, path.letter);
    if (!isSame(owner.address, path.address)) throw lost();
    await sendAnswer({ kind, text, letter, name: owner.name, clock: desk.clock, portOf: desk.portOf });
    return undefined;
  });

  serve(demo.mailboxes, async ({ account }) => {
    const boxes = (await ownersFor(account)).map((owner): Mailbox => {
      const own = letters.of(owner.address);
      return {
        ...owner,
        letters: own.length,
        unread: own.filter((l) => !letters.isRead(l.id)).length,
        latestAt: own.at(-1)?.at ?? null,
        refusing: desk.switches.refuses(owner.address),
      };
    });
    return boxes.sort((a, b) => (b.latestAt ?? 0) - (a.latestAt ?? 0) || a.name.localeCompare(b.name));
  });

  serve(demo.mailbox, async ({ account, path: { address } }) => {
    await ownerOf(account, address);
    const lines = letters.of(address).map(({ id, at, from, subject, firstLine }): LetterLine => {
      return { id, at, from, subject, firstLine, read: letters.isRead(id) };
    });
    return lines.reverse();
  });

  serve(demo.letter, async ({ account, path }) => {
    const { letter } = await letterOf(account, path.letter);
    letters.markRead(letter.id);
    return letter;
  });
}
