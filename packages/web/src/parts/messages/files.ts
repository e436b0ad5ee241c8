/** Files that go with a message: handed to the server, which says what it takes. */
import { contract } from '@zest-bell/core/contract';
import type { FileRef } from '@zest-bell/core/wording';
import { ask, linkTo } from '../../lib/api.ts';

export const uploadFile = (course: number, file: File): Promise<FileRef> =>
  ask(contract.wording.bringFile, { course }, { upload: file, query: { name: file.name } });

export const pictureUrl = (course: number, file: string): string => linkTo(contract.wording.file, { course, file });

/** A size as people say it: "240 KB", "1.2 MB". */
export const sizeWords = (bytes: number): string =>
  bytes < 1_000_000 ? `${Math.max(1, Math.round(bytes / 1000))} KB` : `${Math.round(bytes / 100_000) / 10} MB`;
