/** Which files may go with a message: what students open anywhere, told by their first bytes and not by their name alone. */
import { MOST_FILE_BYTES, MOST_PICTURE_BYTES } from '@zest-bell/core/wording';
import { pngProblem } from './png.ts';

export interface AttachmentKind {
  readonly type: string;
  /** Shown in a message. */
  readonly picture: boolean;
}

const startsWith = (bytes: Buffer, start: string | readonly number[]): boolean =>
  bytes.subarray(0, start.length).equals(Buffer.from(start as string));

const ZIP = [0x50, 0x4b, 0x03, 0x04];
const isText = (bytes: Buffer): boolean => {
  try {
    return !new TextDecoder('utf-8', { fatal: true }).decode(bytes).includes('\0');
  } catch {
    return false;
  }
};
const office = (kind: string) => ({
  type: `application/vnd.openxmlformats-officedocument.${kind}`,
  fits: (b: Buffer) => startsWith(b, ZIP),
});
const picture = (type: string, start: readonly number[]) => ({
  type,
  picture: true,
  fits: (b: Buffer) => startsWith(b, start),
});
const jpeg = picture('image/jpeg', [0xff, 0xd8, 0xff]);

const BY_ENDING: Readonly<Record<string, { type: string; picture?: boolean; fits: (bytes: Buffer) => boolean }>> = {
  pdf: { type: 'application/pdf', fits: (b) => startsWith(b, '%PDF-') },
  png: picture('image/png', [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]),
  jpg: jpeg,
  jpeg,
  gif: picture('image/gif', [0x47, 0x49, 0x46, 0x38]),
  docx: office('wordprocessingml.document'),
  xlsx: office('spreadsheetml.sheet'),
  pptx: office('presentationml.presentation'),
  txt: { type: 'text/plain', fits: isText },
  csv: { type: 'text/csv', fits: isText },
  ics: { type: 'text/calendar', fits: isText },
};

/** The kind of a file, or why it is not taken. */
export function kindOf(name: string, bytes: Buffer): AttachmentKind | string {
  const ending = /\.([a-z0-9]+)$/i.exec(name)?.[1]?.toLowerCase() ?? '';
  const known = BY_ENDING[ending];
  if (!known) return `Only ${Object.keys(BY_ENDING).join(', ')} files go with a message`;
  if (bytes.length === 0) return 'The file is empty';
  if (!known.fits(bytes)) return `Its content is not that of a .${ending} file`;
  const most = known.picture ? MOST_PICTURE_BYTES : MOST_FILE_BYTES;
  if (bytes.length > most) {
    return `It has ${megabytes(bytes.length)}; ${known.picture ? 'a picture' : 'a file'} may have ${megabytes(most)}`;
  }
  const unsound = known.type === 'image/png' ? pngProblem(bytes) : null;
  return unsound ?? { type: known.type, picture: known.picture ?? false };
}

const megabytes = (bytes: number): string => `${Math.round(bytes / 100_000) / 10} MB`;

/** The bare name, without folders, control characters and what makes names travel badly. */
export const plainName = (name: string): string =>
  name
    .split(/[\\/]/)
    .at(-1)!
    .replace(/[\p{Cc}:*?"<>|]+/gu, ' ')
    .trim()
    .slice(-120);
