/** What goes with the words of one message: its files, its pictures, its letter. */
import type { Instant } from '@zest-bell/core/time';
import type { CompiledWording, Message } from '@zest-bell/core/wording';
import type { LiveCourse } from '../course/activity/live.ts';
import { findFile } from './files/repository.ts';
import { makeLetter } from './letters/letter.ts';
import type { MailFile } from '../platform/mail/mail.ts';
import type { Orm } from '../platform/database/orm.ts';

export interface Parcel {
  readonly course: LiveCourse;
  readonly wording: CompiledWording;
  readonly message: Message;
  /** Who reads it. */
  readonly to: string;
  readonly at: Instant;
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
  const shown = new Set(
    message.blocks
      .flatMap((b) => (b.kind === 'list' ? b.items : b.lines).flat())
      .flatMap((piece) => (piece.kind === 'picture' ? [piece.file] : [])),
  );
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

/** The PDF of a message, whether it goes with it or is downloaded. */
export function letterOf(orm: Orm, { course, wording, message, to, at }: Parcel): Promise<Buffer> {
  const em = orm.em.fork();
  return makeLetter({
    message,
    page: wording.wording.letter?.page ?? 'A4',
    from: course.row.sender.name,
    to,
    course: `${course.course.code} ${course.course.title}`,
    at,
    timeZone: course.course.timeZone,
    picture: async (key) => (await findFile(em, course.id, key))?.bytes ?? null,
  });
}
