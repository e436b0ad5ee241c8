/** The part of the mbox reader that tests use. */
declare module 'node-mbox' {
  import type { Readable } from 'node:stream';

  /** The messages of a mail folder, one a piece. */
  export function MboxStream(input: Readable): Readable;
}
