/** The demo's own: its clock, its campus, and the Mailroom. */
import { z } from 'zod';
import { ADVANCES, type ClockAnswer } from '../exchange/wire.ts';
import {
  ANSWER_KINDS,
  MAILROOM_MODES,
  type Letter,
  type LetterLine,
  type Mailbox,
  type MailroomMode,
} from '../exchange/mailroom.ts';
import { get, json, nothing, post } from './endpoint.ts';

export interface MailServer {
  readonly mode: MailroomMode;
}

export const demo = {
  advance: post('/demo/clock', 'administrator', 'Move the clock on', {
    body: z.strictObject({ by: z.enum(ADVANCES) }),
    answer: json<ClockAnswer>(),
  }),
  campus: post('/demo/campus', 'administrator', 'The campus falls silent, or speaks again', {
    body: z.strictObject({ silent: z.boolean() }),
    answer: json<ClockAnswer>(),
  }),
  mailServer: get('/mailroom-server', 'signedIn', 'How the mail server behaves', { answer: json<MailServer>() }),
  setMailServer: post('/mailroom-server', 'administrator', 'Let the mail server behave otherwise', {
    body: z.strictObject({ mode: z.enum(MAILROOM_MODES) }),
    answer: json<MailServer>(),
  }),
  mailboxes: get('/mailroom', 'signedIn', 'Mailboxes of the people on your rosters', { answer: json<Mailbox[]>() }),
  mailbox: get('/mailroom/{address}', 'signedIn', 'The letters of a mailbox', { answer: json<LetterLine[]>() }),
  letter: get('/mailroom/{address}/{letter}', 'signedIn', 'A letter', { answer: json<Letter>() }),
  refuse: post('/mailroom/{address}/refusing', 'administrator', 'A mailbox refuses mail, or takes it again', {
    body: z.strictObject({ refusing: z.boolean() }),
    answer: nothing,
  }),
  answerLetter: post('/mailroom/{address}/{letter}/answer', 'signedIn', 'Answer a letter as its reader', {
    body: z.strictObject({ kind: z.enum(ANSWER_KINDS), text: z.string().max(10_000) }),
    answer: nothing,
  }),
};
