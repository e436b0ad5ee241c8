/** What all modules share: wired once in the composition root and handed to each. */
import type { Clock } from '@zest-bell/core/time';
import type { Logger } from 'pino';
import type { Orm } from './database/orm.ts';
import type { MailTransport } from './mail/mail.ts';
import type { Seal } from './process/seal.ts';
import type { LongWork } from './work/longWork.ts';
import type { News } from './work/news.ts';

/** What environment variables fix: shown on the page of the installation, and not changed there. */
export interface FixedSettings {
  readonly sender: { readonly name: string; readonly address: string } | null;
  readonly senderDomains: readonly string[] | null;
  /** The provider by which the institution signs its people in. */
  readonly directory: FixedDirectory | null;
}

export interface FixedDirectory {
  readonly issuer: string;
  readonly clientId: string;
  /** Null for a provider that asks for none. */
  readonly secret: string | null;
}

export const NOTHING_FIXED: FixedSettings = { sender: null, senderDomains: null, directory: null };

export interface PlatformServices {
  readonly orm: Orm;
  /** The same database over a connection of its own: what is only read need not wait for a transaction. */
  readonly reading: Orm;
  readonly longWork: LongWork;
  readonly clock: Clock;
  readonly mail: MailTransport;
  readonly logger: Logger;
  /** What other processes are told, and tell. */
  readonly news: News;
  /** The address under which people reach the application, and links in mail lead to; null while nobody named one. */
  readonly linkBase: () => string | null;
  /** The sender of the installation's own mail, and of people who have no address of their own. */
  readonly installationSender: () => { readonly name: string; readonly address: string };
  /** Reads it anew, where it may have changed. */
  readonly refreshInstallationSender: () => Promise<void>;
  /** What the operator's settings say of senders; null where the page decides. */
  readonly fixed: FixedSettings;
  /** Keeps what must not be read where it lies. */
  readonly seal: Seal;
  /** A store of arrived mail beside the server, such as the demo’s, removes what names an erased student. */
  readonly forgetMail: (address: string | null, names: (text: string) => boolean) => void;
  /** The address at which the student of a nudge pauses them; null while nobody outside could reach it. */
  readonly pauseLink: (nudge: number) => string | null;
  /** The server's own address for answers to a message, of a third party where one is named; null while it receives none. */
  readonly replyAddress: (tag: { readonly nudge: number; readonly message: number | null }) => string | null;
}
