/** The part of the IMAP test server that tests use. */
declare module 'hoodiecrow-imap' {
  interface ImapServer {
    readonly server: import('node:net').Server;
    readonly folderCache: Record<string, { uidvalidity: number }>;
    listen(port: number, done: () => void): void;
    close(done: () => void): void;
    appendMessage(folder: string, flags: readonly string[], internalDate: string | false, raw: string): void;
  }
  export default function hoodiecrow(options: object): ImapServer;
}
