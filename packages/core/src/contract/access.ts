/** Signing in and out, and what belongs to an account. */
import { z } from 'zod';
import type { SessionAnswer } from '../exchange/access.ts';
import type { FactorsAnswer, ProvenAddress, SessionLine } from '../exchange/access.ts';
import { addressSchema } from '../course/entry.ts';
import { DIGESTS } from '../exchange/lookout.ts';
import { get, json, nothing, post, put, remove } from './endpoint.ts';
import { sendDelay } from './fields.ts';

/** NIST SP 800-63B, 5.1.1.2, from memory: length counts, and no rule about kinds of characters. */
export const newPassword = z.string().min(12, 'A password has at least 12 characters').max(500);
const name = z.string().trim().min(1, 'Type your name').max(120);
const password = z.string().min(1, 'Type your password').max(500);
/** What a browser says of a passkey: read by the library that checks it. */
const said = z.record(z.string(), z.unknown());
const code = z.string().trim().min(1, 'Type the code').max(40);

export const access = {
  session: get('/session', 'open', 'Who is signed in', { answer: json<SessionAnswer>() }),
  signIn: post('/session', 'open', 'Sign in', {
    body: z.strictObject({
      email: z.string().trim().toLowerCase().min(1, 'Type your email address').max(254),
      password,
    }),
    answer: json<SessionAnswer>(),
  }),
  factor: post('/session/factor', 'open', 'Show a second factor', {
    body: z.union([
      z.strictObject({ code }),
      z.strictObject({ recoveryCode: code }),
      z.strictObject({ passkey: said }),
    ]),
    answer: json<SessionAnswer>(),
  }),
  factorChallenge: post('/session/factor/challenge', 'open', 'What a passkey is to sign', {
    answer: json<Readonly<Record<string, unknown>>>(),
  }),
  confirm: post('/session/confirm', 'signedIn', 'Show again that it is you', {
    body: z.strictObject({ password }),
    answer: nothing,
  }),
  beginDirectory: post('/session/directory', 'open', 'Where to sign in by the institution’s own sign-in', {
    body: z.strictObject({
      /** What for: to sign in, to show again that it is you, or to join the account of a launch to one's own. */
      purpose: z.enum(['signIn', 'confirm', 'join']).default('signIn'),
      /** The page to come back to. */
      then: z
        .string()
        .max(500)
        .regex(/^\/(?![/\\])/, 'Name a page of Zest Bell')
        .default('/'),
      /** The secret of an invitation that is accepted on the way. */
      invitation: z.string().min(1).max(200).optional(),
    }),
    answer: json<{ readonly to: string }>(),
  }),
  proveOlder: post('/session/directory/prove', 'open', 'Prove an older account by its password, and keep it', {
    body: z.strictObject({ password }),
    answer: json<SessionAnswer>(),
  }),
  join: post('/account/join', 'signedIn', 'Join the account of a launch to your own', {
    body: z.strictObject({
      email: z.string().trim().toLowerCase().min(1, 'Type your email address').max(254),
      password,
      /** Of the second factor, or a recovery code, where there is one. */
      code: z.string().trim().max(40).default(''),
    }),
    answer: json<SessionAnswer>(),
  }),
  signInToDemo: post('/session/demo', 'open', 'Sign in to the demo', { answer: json<SessionAnswer>() }),
  firstAccount: post('/accounts/first', 'open', 'Make the first account of a new installation', {
    body: z.strictObject({
      name,
      email: z.email('Type an email address such as ada@college.example').toLowerCase(),
      password: newPassword,
      /** Printed at the start, where the server can be reached from elsewhere. */
      code: z.string().trim().max(40).default(''),
    }),
    answer: { ...json<SessionAnswer>(), status: 201 },
  }),
  password: post('/session/password', 'signedIn', 'Change your password; every other browser is signed out', {
    body: z.strictObject({ old: z.string().min(1, 'Type your current password').max(500), password: newPassword }),
    answer: json<SessionAnswer>(),
  }),
  forgotten: post('/password/forgotten', 'open', 'Get a link for a new password by mail', {
    body: z.strictObject({ email: z.string().trim().toLowerCase().min(1, 'Type your email address').max(254) }),
    answer: nothing,
  }),
  newPassword: post('/password/new', 'open', 'Set a new password with such a link', {
    body: z.strictObject({ secret: z.string().min(1).max(200), password: newPassword }),
    answer: nothing,
  }),
  signOut: remove('/session', 'open', 'Sign out', { answer: nothing }),
  signOutEverywhere: remove('/session/all', 'signedIn', 'Sign out every browser', { answer: nothing }),
  sessions: get('/account/sessions', 'signedIn', 'Where you are signed in', { answer: json<SessionLine[]>() }),
  endSession: remove('/account/sessions/{session}', 'signedIn', 'Sign out one browser', { answer: nothing }),
  rename: put('/account/name', 'signedIn', 'Change what you are called', {
    body: z.strictObject({ name }),
    answer: json<SessionAnswer>(),
  }),
  factors: get('/account/factors', 'signedIn', 'Your second factors', { answer: json<FactorsAnswer>() }),
  beginTotp: post('/account/totp', 'signedIn', 'Begin with codes of an authenticator app', {
    answer: json<{ readonly secret: string; readonly uri: string }>(),
  }),
  confirmTotp: post('/account/totp/confirm', 'signedIn', 'Use codes from now on; ten recovery codes are shown once', {
    body: z.strictObject({ code }),
    answer: json<{ readonly recoveryCodes: readonly string[] }>(),
  }),
  endTotp: remove('/account/totp', 'signedIn', 'Use no codes any more', { answer: nothing }),
  newRecoveryCodes: post('/account/recovery-codes', 'signedIn', 'Ten new recovery codes, shown once', {
    answer: json<{ readonly recoveryCodes: readonly string[] }>(),
  }),
  beginPasskey: post('/account/passkeys/begin', 'signedIn', 'Begin with a passkey', {
    answer: json<Readonly<Record<string, unknown>>>(),
  }),
  addPasskey: post('/account/passkeys', 'signedIn', 'Use a passkey from now on', {
    body: z.strictObject({ name: z.string().trim().min(1, 'Name this passkey').max(80), passkey: said }),
    answer: nothing,
  }),
  removePasskey: remove('/account/passkeys/{passkey}', 'signedIn', 'Use a passkey no more', { answer: nothing }),
  addresses: get('/account/addresses', 'signedIn', 'Addresses that you have proven to be yours', {
    answer: json<ProvenAddress[]>(),
  }),
  mailCode: post('/account/addresses/code', 'signedIn', 'Have a code mailed to an address', {
    body: z.strictObject({ address: addressSchema }),
    answer: nothing,
  }),
  proveAddress: post('/account/addresses', 'signedIn', 'Prove an address with the code that was mailed to it', {
    body: z.strictObject({
      address: addressSchema,
      code: z
        .string()
        .transform((typed) => typed.replace(/\s/g, ''))
        .pipe(z.string().regex(/^\d{8}$/, 'Type the eight digits of the code')),
    }),
    answer: nothing,
  }),
  sendDelay: put('/account/send-delay', 'signedIn', 'How long what you send by hand waits', {
    body: z.strictObject({ seconds: sendDelay }),
    answer: nothing,
  }),
  endTour: post('/account/tour-over', 'signedIn', 'Take or leave the tour, for good', { answer: nothing }),
  digest: put('/inbox/digest', 'signedIn', 'How often you get a mail about your courses', {
    body: z.strictObject({ digest: z.enum(DIGESTS) }),
    answer: nothing,
  }),
};
