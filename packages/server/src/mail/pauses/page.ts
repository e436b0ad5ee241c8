/**
 * The page behind the link in a student's message (RFC 2369, RFC 8058). It needs no sign-in, works without scripts, and
 * opening it changes nothing; a mail program's one click pauses until the end of the term.
 */
import express, { Router, type Request, type RequestHandler } from 'express';
import { z } from 'zod';
import {
  dateWords,
  dayNumberOf,
  DAY,
  instantWords,
  listWords,
  localDateSchema,
  type Instant,
} from '@zest-bell/core/time';
import { CATALOGUE, factWords } from '@zest-bell/core/measures';
import { conditionParts, leavesOf, wordsOf, type LeafEvidence } from '@zest-bell/core/conditions';
import { inCourse } from '../../course/lock.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule, readableRules } from '../../rules/repository.ts';
import { escapeHtml } from '@zest-bell/core/wording';
import { inVoiceOf, type LiveCourse } from '../../course/activity/live.ts';
import { PersonRow } from '../../course/entity.ts';
import { NudgeRow } from '../nudges/entity.ts';
import { writersOf } from '../byHand/writers.ts';
import type { Course } from '@zest-bell/core/course';
import type { Em } from '../../platform/database/orm.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { parseInput } from '../../platform/http/http.ts';
import { plainPage } from '../../platform/http/plainPage.ts';
import type { CourseServices } from '../../course/services.ts';
import { endPauses, setPause } from './pause.ts';
import { nudgeOfToken } from './token.ts';
import { MOST_LINE, SAID, STUDENT_WORDS, takeAnswer, wordAsMail, wordSchema } from './studentAnswer.ts';

const wrongSchema = z.object({
  text: z.string().trim().min(1, 'Write what is wrong').max(2000, 'At most 2,000 characters'),
});

const choiceSchema = z.object({
  'List-Unsubscribe': z.literal('One-Click').optional(),
  until: z.enum(['term', 'date', 'resume']).optional(),
  date: localDateSchema.or(z.literal('')).optional(),
});

/** What the rules of a course that are on look at, in words. */
export async function lookedAtIn(em: Em, id: number, course: Course): Promise<string[]> {
  const rules = readableRules(await em.find(RuleRow, { course: id, status: 'on' }));
  const labels = rules.flatMap((r) => leavesOf(r.when).map((leaf) => CATALOGUE[leaf.measure].label(leaf, course)));
  return [...new Set(labels)].sort();
}

/** The longest text of a form, 2,000 characters, each of up to 12 bytes as a form encodes them. */
const FORM_BYTES = 32_000;

export function pausePages(services: CourseServices, secret: string): Router {
  const { orm, live, clock } = services;
  const router = Router();

  const find = async (token: string) => {
    const id = nudgeOfToken(secret, token);
    const em = orm.em.fork();
    const nudge = id === null ? null : await em.findOne(NudgeRow, { id });
    if (!nudge) throw new AppError('notFound');
    const writer = (await writersOf(em, [nudge])).get(nudge.id);
    return { nudge, course: inVoiceOf(await live.get(em, nudge.course), writer) };
  };

  const show = async (token: string, said: string | null): Promise<string> => {
    const { nudge, course } = await find(token);
    const em = orm.em.fork();
    const person = await em.findOne(PersonRow, { course: course.id, key: nudge.student });
    // Who was erased is known to nobody, behind this link neither.
    if (!person) throw new AppError('notFound');
    const row = nudge.rule == null ? null : await em.findOne(RuleRow, { course: course.id, key: nudge.rule });
    const own = row && readableRule(row);
    const until = person.paused ? (person.pausedUntil ?? course.course.calendar.end) : null;
    const isOver = clock.now() >= course.course.calendar.end;
    return pageOf(course, {
      isOver,
      firstName: person.firstName,
      until,
      evidence: nudge.evidence,
      at: nudge.roundAt,
      said,
      wrongAt: `/p/${token}/wrong`,
      wordAt: `/p/${token}/word`,
      because: own && wordsOf(conditionParts(own.when, course.course)),
      lookedAt: await lookedAtIn(em, course.id, course.course),
    });
  };

  router.get('/p/:token', async (req, res) => {
    res
      .set('cache-control', 'no-store')
      .type('html')
      .send(await show(req.params.token, null));
  });

  // A tab that is opened again after an answer asks for the address to which that was sent.
  router.get('/p/:token/:answered', (req, res) => res.redirect(303, `/p/${encodeURIComponent(req.params.token)}`));

  // RFC 8058 §3.2: a mail program's one click comes as either of the two.
  const form = express.urlencoded({ extended: false, limit: FORM_BYTES });

  /** “This is wrong”: it comes to the instructor as a reply, with what was known. */
  router.post('/p/:token/wrong', form, async (req: Request<{ token: string }>, res) => {
    const { nudge, course } = await find(req.params.token);
    if (clock.now() >= course.course.calendar.end) throw new AppError('courseOver');
    const { text } = parseInput(wrongSchema, req.body ?? {});
    const facts = nudge.evidence.map((e) => `- ${factWords(e.fact, course.course.timeZone)}`).join('\n');
    await takeAnswer(services, nudge, {
      kind: 'wrong',
      subject: 'This is wrong',
      text: `${text}\n\nWhat Zest Bell knew when it wrote:\n${facts}`,
    });
    res
      .set('cache-control', 'no-store')
      .type('html')
      .send(await show(req.params.token, `Thank you. ${course.sender.name} reads it.`));
  });

  /** One press, and a line if they like: it comes to the instructor as a reply. */
  router.post('/p/:token/word', form, async (req: Request<{ token: string }>, res) => {
    const { nudge, course } = await find(req.params.token);
    if (clock.now() >= course.course.calendar.end) throw new AppError('courseOver');
    const { word, line } = parseInput(wordSchema, req.body ?? {});
    await takeAnswer(services, nudge, { kind: 'word', ...wordAsMail(word, line) });
    res
      .set('cache-control', 'no-store')
      .type('html')
      .send(await show(req.params.token, `Thank you. ${course.sender.name} sees it.`));
  });

  router.post('/p/:token', form, oneClickOfParts, async (req: Request<{ token: string }>, res) => {
    const { nudge, course } = await find(req.params.token);
    if (clock.now() >= course.course.calendar.end) throw new AppError('courseOver');
    const choice = parseInput(choiceSchema, req.body ?? {});
    const { calendar } = course.course;
    let until: Instant | null = calendar.end;
    if (choice.until === 'resume') until = null;
    else if (choice.until === 'date') {
      if (!choice.date) throw missingDate();
      // Until that date: it is the first on which nudges come again.
      until = calendar.zone.toInstant(dayNumberOf(choice.date) * DAY);
      if (until <= clock.now()) throw missingDate();
    } else if (choice.until === undefined && choice['List-Unsubscribe'] === undefined) throw missingDate();
    await endPauses(services);
    await inCourse(orm, course.id, (em) => setPause(em, course.id, nudge.student, until));
    const said = until === null ? 'You will get these messages again.' : 'Saved.';
    res
      .set('cache-control', 'no-store')
      .type('html')
      .send(await show(req.params.token, said));
  });

  return router;
}

const multipart = express.text({ type: 'multipart/form-data', limit: '4kb' });
const ONE_CLICK = /name="?List-Unsubscribe"?\r?\n(?:[^\r\n]+\r?\n)*\r?\nOne-Click\r?\n/i;

/** The one field that a mail program may send in parts; anything else in parts is no choice. */
const oneClickOfParts: RequestHandler<{ token: string }> = (req, res, next) => {
  multipart(req as Request, res, (error?: unknown) => {
    if (typeof req.body === 'string') {
      req.body = ONE_CLICK.test(req.body) ? { 'List-Unsubscribe': 'One-Click' } : {};
    }
    next(error);
  });
};

const missingDate = () =>
  new AppError('invalidInput', [{ path: 'date', code: 'date', message: 'Choose a day in the future' }]);

interface PageParts {
  readonly firstName: string;
  /** The course has ended: there is nothing to pause any more. */
  readonly isOver: boolean;
  /** Until when the student has paused; null while messages come. */
  readonly until: Instant | null;
  readonly evidence: readonly LeafEvidence[];
  readonly at: Instant;
  /** What its rule looks for; null for a message that somebody wrote by hand. */
  readonly because: string | null;
  /** Where what is wrong is sent. */
  readonly wrongAt: string;
  /** Where an answer of one press is sent. */
  readonly wordAt: string;
  /** What the course's rules that are on look at, of everybody. */
  readonly lookedAt: readonly string[];
  readonly said: string | null;
}

function pageOf({ course, sender }: LiveCourse, parts: PageParts): string {
  const zone = course.timeZone;
  const why = parts.evidence.map((e) => `<li>${escapeHtml(factWords(e.fact, zone))}</li>`).join('');
  const state =
    parts.until === null
      ? 'You get messages like this one.'
      : parts.until >= course.calendar.end
        ? `You have paused such messages until the end of the term, ${escapeHtml(dateWords(course.end))}.`
        : `You have paused such messages until ${escapeHtml(instantWords(parts.until, zone))}.`;
  const title = `Messages from ${course.title}`;
  const heading = `${parts.firstName || 'Hello'}, this is about messages from ${sender.name} in ${course.title}`;
  return plainPage(
    title,
    heading,
    `${parts.said === null ? '' : `<p class="said" role="status">${escapeHtml(parts.said)}</p>`}
${parts.isOver ? '' : wordForm(parts.wordAt, sender.name)}
<p><strong>${state}</strong></p>
${
  parts.isOver
    ? '<p>The course is over. You will not get more messages like this one.</p>'
    : parts.until === null
      ? `<form method="post"><button class="main" name="until" value="term">Pause until the end of the term</button></form>
<form method="post"><input type="hidden" name="until" value="date"><label>or until <input type="date" name="date" required min="${course.start}" max="${course.end}"></label><button>Pause</button></form>`
      : `<form method="post"><button class="main" name="until" value="resume">Get these messages again</button></form>`
}
<p>Essential messages still arrive, for example when your place in the course is at risk. You can change this here at any
time.</p>
<h2>Why you got the message on ${escapeHtml(instantWords(parts.at, zone))}</h2>
${parts.because === null ? '' : `<p>A rule looks for students who ${escapeHtml(parts.because)}. What was known of you:</p>`}
<ul>${why}</ul>
${parts.isOver ? '' : wrongForm(parts.wrongAt, sender.name)}
${
  parts.lookedAt.length === 0
    ? ''
    : `<h2>What else is looked at</h2><p>Rules of this course look at: ${escapeHtml(listWords(parts.lookedAt))}.</p>`
}`,
  );
}

const wordForm = (to: string, name: string): string => `<h2>Answer ${escapeHtml(name)}</h2>
<form method="post" action="${escapeHtml(to)}">
<label for="line">A line of your own, if you like:</label>
<textarea id="line" name="line" rows="2" maxlength="${MOST_LINE}"></textarea>
${STUDENT_WORDS.map((word) => `<button name="word" value="${word}">${SAID[word]}</button>`).join('')}</form>
<h2>Pause these messages</h2>`;

const wrongForm = (to: string, name: string): string => `<form method="post" action="${escapeHtml(to)}">
<label for="text">Is something here wrong? Tell ${escapeHtml(name)}:</label>
<textarea id="text" name="text" rows="3" maxlength="2000" required></textarea><button>Send it</button></form>`;
