/** What a student says on the page behind their link. It comes to the instructor as a reply to the message. */
import { z } from 'zod';
import { inCourse } from '../../course/lock.ts';
import { PersonRow } from '../../course/entity.ts';
import type { CourseServices } from '../../course/services.ts';
import { insertRow } from '../../platform/database/writing.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { NudgeRow } from '../nudges/entity.ts';
import { ReplyRow, replyHolds } from '../replies/entity.ts';

/** How many of a kind one message can get. */
const MOST = { wrong: 5, word: 3 } as const;

/** Characters of the line beside an answer of one press. */
export const MOST_LINE = 500;

export const STUDENT_WORDS = ['seen', 'will', 'help'] as const;
type StudentWord = (typeof STUDENT_WORDS)[number];

/** On the buttons, and the subject of the reply. */
export const SAID: Readonly<Record<StudentWord, string>> = {
  seen: 'I have seen this',
  will: 'I will …',
  help: 'I need help',
};

export const wordSchema = z.object({
  word: z.enum(STUDENT_WORDS, 'Choose one of the three answers'),
  line: z.string().trim().max(MOST_LINE, `At most ${MOST_LINE} characters`).default(''),
});

/** “I will …” is finished by the line, if there is one. */
export function wordAsMail(word: StudentWord, line: string): { readonly subject: string; readonly text: string } {
  if (word === 'will') {
    const subject = line === '' ? 'I will do it' : 'I will …';
    return { subject, text: line === '' ? 'I will do it.' : `I will … ${line}` };
  }
  return { subject: SAID[word], text: line === '' ? `${SAID[word]}.` : `${SAID[word]}.\n\n${line}` };
}

/** Stores it. Throws `tooManyRequests` when the message has all that it can get, and `notFound` when nobody is known any more. */
export async function takeAnswer(
  { orm, clock }: CourseServices,
  nudge: NudgeRow,
  { kind, subject, text }: { readonly kind: keyof typeof MOST; readonly subject: string; readonly text: string },
): Promise<void> {
  const { course, student, id } = nudge;
  await inCourse(orm, course, async (em) => {
    const person = await em.findOne(PersonRow, { course, key: student });
    if (!person) throw new AppError('notFound');
    const before = { course, nudge: id, messageId: { $like: `<${kind}-${id}-%` } };
    if ((await em.count(ReplyRow, before)) >= MOST[kind]) throw new AppError('tooManyRequests');
    await insertRow(em, replyHolds, {
      course,
      nudge: id,
      student,
      kind: 'reply',
      at: clock.now(),
      messageId: `<${kind}-${id}-${crypto.randomUUID()}@zest-bell>`,
      fromName: `${person.firstName} ${person.lastName}`.trim(),
      fromAddress: person.email ?? '',
      subject,
      text,
    });
  });
}
