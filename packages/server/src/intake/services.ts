import type { RoundServices as Rounds } from '../rounds/services.ts';
import type { BroughtFiles } from './imports/broughtFiles.ts';
import type { Staging } from './staging/staging.ts';
import type { FileReader } from './imports/fileReader.ts';

/** Services of rounds, and what reads files. */
export interface IntakeServices extends Rounds {
  /** Reads files in a thread of their own. */
  readonly files: FileReader;
  /** Takes large ones. */
  readonly staging: Staging;
  /** Files that were brought and are not settled yet. */
  readonly brought: BroughtFiles;
  /** Below it, each course has a folder from which files are taken automatically. */
  readonly folder: string;
  /** Where files are made that somebody takes along; empty at each start. */
  readonly exporting: string;
}
