/** What goes with the words of one message: its files, its pictures, its letter. */
import type { Instant } from '@zest-bell/core/time';
import type { CompiledWording, Message } from '@zest-bell/core/wording';
import type { LiveCourse } from '../course/activity/live.ts';
import { findFile } from './files/repository.ts';
import { makeLetter, type LetterContents } from './letters/letter.ts';
import type { MailFile } from '../platform/mail/mail.ts';
import type { Em, Orm } from '../platform/database/orm.ts';

export interface Parcel {
  readonly course: LiveCourse;
  readonly wording: CompiledWording;
  readonly message: Message;
  /** Who reads it. */
  readonly to: string;
  readonly at: Instant;
}

/** How one message left, beyond its words: enough to make the same mail of it again. */
export interface SendingDetails {
  /** The sender's name. */
  readonly from: string;
  /** The message that it answers; null for none. */
  readonly inReplyTo: string | null;
  /** Files by their key, which never change. `shownAs`: a picture in the text. */
  readonly files: readonly { readonly key: string; readonly name: string; readonly shownAs: string | null }[];
  /** What its letter was made from; null if it had none. */
  readonly letter: (Omit<LetterContents, 'picture' | 'at'> & { readonly name: string }) | null;
}

/** What is kept with an attempt. */
export function sentWithOf(
  mail: { readonly from: { readonly name: string }; readonly inReplyTo: string | null },
  parcel: Parcel | null,
  toStudent: boolean,
): SendingDetails {
  const sent = { from: mail.from.name, inReplyTo: mail.inReplyTo };
  if (parcel === null) return { ...sent, files: [], letter: null };
  const { wording } = parcel.wording;
  const name = toStudent && wording.letter?.attach ? parcel.message.letterName : null;
  return {
    ...sent,
    files: [
      ...picturesIn(parcel.message).map((key) => ({ key, name: key, shownAs: key })),
      ...(toStudent ? (wording.files ?? []) : []).map((f) => ({ key: f.id, name: f.name, shownAs: null })),
    ],
    letter: name === null ? null : { ...letterContents(parcel), name: `${name}.pdf` },
  };
}

/** The same files again, and the names of those that are gone. */
export async function packedAgain(
  em: Em,
  course: number,
  { files, letter }: SendingDetails,
  at: Instant,
): Promise<{ readonly files: MailFile[]; readonly gone: string[] }> {
  const out: MailFile[] = [];
  const gone: string[] = [];
  for (const { key, name, shownAs } of files) {
    const file = await findFile(em, course, key);
    if (file) out.push({ name: shownAs === null ? name : file.name, type: file.type, bytes: file.bytes, shownAs });
    else gone.push(name);
  }
  if (letter) {
    const picture = async (key: string) => (await findFile(em, course, key))?.bytes ?? null;
    const bytes = await makeLetter({ ...letter, at, picture });
    out.push({ name: letter.name, type: 'application/pdf', bytes, shownAs: null });
  }
  return { files: out, gone };
}

/** The names of what a student's message carries, the letter last; a third party's carries none of it. */
export const filesOf = ({ wording, message }: Pick<Parcel, 'wording' | 'message'>, toStudent: boolean): string[] =>
  toStudent
    ? [
        ...(wording.wording.files ?? []).map((f) => f.name),
        ...(wording.wording.letter?.attach && message.letterName !== null ? [`${message.letterName}.pdf`] : []),
      ]
    : [];

/** Pictures stand in the message of every reader; files and letter are the student's. */
export async function packed(orm: Orm, parcel: Parcel, toStudent: boolean): Promise<MailFile[]> {
  const { course, wording, message } = parcel;
  const out: MailFile[] = [];
  const shown = new Set(picturesIn(message));
  const files = toStudent ? (wording.wording.files ?? []) : [];
  // Most messages carry nothing: they need no look into the database.
  const em = shown.size + files.length > 0 ? orm.em.fork() : null;
  for (const key of shown) {
    const file = await findFile(em!, course.id, key);
    if (file) out.push({ name: file.name, type: file.type, bytes: file.bytes, shownAs: key });
  }
  for (const ref of files) {
    const file = await findFile(em!, course.id, ref.id);
    if (!file) throw new Error(`The file “${ref.name}” is no longer there`);
    out.push({ name: ref.name, type: file.type, bytes: file.bytes, shownAs: null });
  }
  if (toStudent && wording.wording.letter?.attach && message.letterName !== null) {
    const bytes = await letterOf(orm, parcel);
    out.push({ name: `${message.letterName}.pdf`, type: 'application/pdf', bytes, shownAs: null });
  }
  return out;
}

/** Keys of the pictures in a message, each once. */
const picturesIn = ({ blocks }: Message): string[] => [
  ...new Set(
    blocks
      .flatMap((b) => (b.kind === 'list' ? b.items : b.lines).flat())
      .flatMap((piece) => (piece.kind === 'picture' ? [piece.file] : [])),
  ),
];

const letterContents = ({ course, wording, message, to }: Parcel): Omit<LetterContents, 'picture' | 'at'> => ({
  message: { subject: message.subject, blocks: message.blocks },
  page: wording.wording.letter?.page ?? 'A4',
  from: course.sender.name,
  to,
  course: `${course.course.code} ${course.course.title}`,
  timeZone: course.course.timeZone,
});

/** The PDF of a message, attached or downloaded. */
export function letterOf(orm: Orm, parcel: Parcel): Promise<Buffer> {
  const em = orm.em.fork();
  const picture = async (key: string) => (await findFile(em, parcel.course.id, key))?.bytes ?? null;
  return makeLetter({ ...letterContents(parcel), at: parcel.at, picture });
}
