/** Signing in and out, and what belongs to an account. */
import { z } from 'zod';
import type { SessionAnswer } from '../exchange/wire.ts';
import { MOST_SEND_DELAY } from '../exchange/sendings.ts';
import { DIGESTS } from '../exchange/lookout.ts';
import { get, json, nothing, post, put, remove } from './endpoint.ts';

const newPassword = z.string().min(10, 'A password has at least 10 characters').max(500);

export const access = {
  session: get('/session', 'open', 'Who is signed in', { answer: json<SessionAnswer>() }),
  signIn: post('/session', 'open', 'Sign in', {
    body: z.strictObject({
      email: z.string().trim().toLowerCase().min(1, 'Type your email address').max(254),
      password: z.string().min(1, 'Type your password').max(500),
    }),
    answer: json<SessionAnswer>(),
  }),
  signInToDemo: post('/session/demo', 'open', 'Sign in to the demo', { answer: json<SessionAnswer>() }),
  firstAccount: post('/accounts/first', 'open', 'Make the first account of a new installation', {
    body: z.strictObject({
      name: z.string().trim().min(1, 'Type your name').max(120),
      email: z.email('Type an email address such as ada@college.example').toLowerCase(),
      password: newPassword,
    }),
    answer: { ...json<SessionAnswer>(), status: 201 },
  }),
  password: post('/session/password', 'signedIn', 'Change your password; every other browser is signed out', {
    body: z.strictObject({ old: z.string().min(1, 'Type your current password').max(500), password: newPassword }),
    answer: json<SessionAnswer>(),
  }),
  signOut: remove('/session', 'open', 'Sign out', { answer: nothing }),
  signOutEverywhere: remove('/session/all', 'signedIn', 'Sign out every browser', { answer: nothing }),
  sendDelay: put('/account/send-delay', 'signedIn', 'How long what you send by hand waits', {
    body: z.strictObject({
      seconds: z.number().int().min(0).max(MOST_SEND_DELAY, `At most ${MOST_SEND_DELAY} seconds`),
    }),
    answer: nothing,
  }),
  digest: put('/inbox/digest', 'signedIn', 'How often you get a mail about your courses', {
    body: z.strictObject({ digest: z.enum(DIGESTS) }),
    answer: nothing,
  }),
};
