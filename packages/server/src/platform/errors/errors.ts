/**
 * Everything that can go wrong in a way the interface should explain, in one table. `docs/errors.md` is held to it by a
 * test. Families: the user's to mend, transient (try again later), a bug.
 */
import type { Problem } from '@zest-bell/core/problem';

export type ErrorFamily = 'user' | 'transient' | 'bug';

export interface ErrorKind {
  readonly status: number;
  readonly family: ErrorFamily;
  /** A sentence for the person at the screen. */
  readonly title: string;
}

export const ERRORS = {
  signInNeeded: { status: 401, family: 'user', title: 'Sign in to continue.' },
  wrongPassword: {
    status: 401,
    family: 'user',
    title: 'This email address and password do not match. Check both and try again.',
  },
  tooManyAttempts: { status: 429, family: 'user', title: 'Too many attempts. Wait 15 minutes, then try again.' },
  crossSiteRequest: {
    status: 403,
    family: 'user',
    title: 'This request did not come from Zest Bell’s own page. Reload the page and try again.',
  },
  passwordsOff: {
    status: 409,
    family: 'user',
    title: 'Passwords are turned off here. Use your institution’s sign-in.',
  },
  notForShelf: {
    status: 409,
    family: 'user',
    title: 'This still names people, addresses, dates, or things of this course. Change them first.',
  },
  noDirectory: {
    status: 409,
    family: 'user',
    title: 'This installation is not connected to a sign-in of your institution.',
  },
  directoryUnreachable: {
    status: 503,
    family: 'transient',
    title: 'Your institution’s sign-in cannot be reached right now. Try again in a minute.',
  },
  codeNeeded: {
    status: 409,
    family: 'user',
    title: 'That account has a second factor. Type a code of your app, or a recovery code, as well.',
  },
  launchAgain: {
    status: 409,
    family: 'user',
    title: 'Open Zest Bell from your learning platform again, then join your accounts within ten minutes.',
  },
  accountsExist: { status: 409, family: 'user', title: 'The first account already exists. Sign in instead.' },
  notInDemo: { status: 404, family: 'user', title: 'This is only available in the demo.' },
  notFound: { status: 404, family: 'user', title: 'This page does not exist, or you do not have access to it.' },
  notAllowed: {
    status: 403,
    family: 'user',
    title: 'Your role in this course does not allow this. Ask an owner of the course.',
  },
  administratorsOnly: { status: 403, family: 'user', title: 'Only an administrator of this installation can do this.' },
  confirmYourself: { status: 409, family: 'user', title: 'Type your password again to do this.' },
  factorNeeded: {
    status: 409,
    family: 'user',
    title: 'Set up a second factor first. This installation asks for one of everybody.',
  },
  wrongCode: {
    status: 401,
    family: 'user',
    title: 'This code does not fit, or it was used already. Try the next one.',
  },
  linkUnknown: { status: 404, family: 'user', title: 'This link does not exist. Check that you copied all of it.' },
  linkUsed: {
    status: 410,
    family: 'user',
    title: 'This link has been used, taken back, or has ended. Ask for a new one.',
  },
  otherPerson: {
    status: 409,
    family: 'user',
    title: 'This invitation is for another email address than yours. Sign out first, then open the link again.',
  },
  signInToAccept: {
    status: 409,
    family: 'user',
    title: 'This email address has an account. Sign in with it, then accept the invitation.',
  },
  lastOwner: { status: 409, family: 'user', title: 'A course needs an owner. Make somebody else an owner first.' },
  lastAdministrator: {
    status: 409,
    family: 'user',
    title: 'An installation needs an administrator. Make somebody else one first.',
  },
  hasAccess: { status: 409, family: 'user', title: 'This person has access to the course already.' },
  senderNotProven: {
    status: 400,
    family: 'user',
    title: 'An address of the sender is not proven yet. Prove it in Course, under Sender.',
  },
  senderNotAllowed: {
    status: 400,
    family: 'user',
    title: 'Your installation does not send from this address. Choose another in Course, under Sender.',
  },
  addressNotProven: {
    status: 403,
    family: 'user',
    title: 'Prove your email address first: have a code mailed to it in your account.',
  },
  mayNotMakeCourses: {
    status: 403,
    family: 'user',
    title: 'You may not make courses in this installation. Ask an administrator.',
  },
  wrongAddressCode: {
    status: 400,
    family: 'user',
    title: 'This code does not fit, or it is over. Have a new one mailed.',
  },
  codeNotMailed: {
    status: 409,
    family: 'transient',
    title: 'The code was not mailed: the mail server did not take it. Try again later, or ask an administrator.',
  },
  tooManyCodes: {
    status: 429,
    family: 'user',
    title: 'Too many codes were mailed. Use the last one, or wait an hour and try again.',
  },
  tooManyInvitations: {
    status: 429,
    family: 'user',
    title: 'You have sent many invitations. Wait before you send more.',
  },
  noPublicAddress: {
    status: 409,
    family: 'user',
    title:
      'Zest Bell does not know its own address, so it cannot make links. Ask an administrator to set ZEST_PUBLIC_URL.',
  },
  invalidInput: { status: 400, family: 'user', title: 'Some fields need a correction.' },
  inputTooLarge: { status: 413, family: 'user', title: 'This is too large to send at once. Send it in smaller parts.' },
  tokenNeeded: {
    status: 401,
    family: 'user',
    title: 'This needs a token of the course as a bearer token, and one that still works.',
  },
  tooManyRequests: {
    status: 429,
    family: 'transient',
    title: 'Too many requests within a minute. Wait a moment, then try again.',
  },
  changedMeanwhile: {
    status: 409,
    family: 'user',
    title: 'Someone else changed this in the meantime. Reload it; your draft is kept.',
  },
  daysNotConfirmed: {
    status: 409,
    family: 'user',
    title: 'The days and time zone of this course are not confirmed yet. Confirm them in Set up, then turn rules on.',
  },
  ruleOff: { status: 409, family: 'user', title: 'This rule is off. Turn it on to check now.' },
  notInCourse: {
    status: 422,
    family: 'user',
    title: 'This rule names something that this course does not have. Open the rule and choose another.',
  },
  wordingBroken: {
    status: 422,
    family: 'user',
    title: 'The text of this rule has a problem. Open its wording and fix it.',
  },
  wordingInUse: {
    status: 409,
    family: 'user',
    title: 'A rule uses this wording. Choose another wording for the rule first.',
  },
  trialRuns: { status: 409, family: 'user', title: 'A fair trial of these texts is running. End it first.' },
  courseArchived: {
    status: 409,
    family: 'user',
    title: 'This course is archived, so nothing in it changes. Take it out of the archive first.',
  },
  ruleArchived: {
    status: 409,
    family: 'user',
    title: 'This rule is in the archive. Take it out of the archive first.',
  },
  reachesMany: {
    status: 409,
    family: 'user',
    title: 'This would write to more of the class than the course allows without asking. Confirm it first.',
  },
  outsideAddresses: {
    status: 409,
    family: 'user',
    title: 'This would write about students to addresses outside your institution. Allow each of them first.',
  },
  nothingWritten: { status: 422, family: 'user', title: 'You have not written anything yet. Type your message first.' },
  tooLate: { status: 409, family: 'user', title: 'This has already left, so it cannot be taken back.' },
  mailStopped: {
    status: 409,
    family: 'user',
    title: 'All mail of this course is stopped. Start mail again in Course first.',
  },
  dataStale: {
    status: 409,
    family: 'user',
    title: 'The course data is older than its limit allows, so active students may look absent. Nothing was sent.',
  },
  courseOver: { status: 409, family: 'user', title: 'The course is over. Nothing is sent after its last day.' },
  notUncertain: { status: 409, family: 'user', title: 'You can only settle a message that is unclear or has failed.' },
  ruleTrouble: {
    status: 409,
    family: 'user',
    title: 'This rule cannot run. Nothing was sent. Open the rule to see why.',
  },
  notReachable: { status: 409, family: 'user', title: 'Zest Bell cannot write to this student now.' },
  cannotUndo: {
    status: 409,
    family: 'user',
    title: 'This change cannot be undone, because something later builds on it.',
  },
  importSettled: { status: 409, family: 'user', title: 'This file was taken already. Bring it again to read it anew.' },
  fileUnreadable: { status: 422, family: 'user', title: 'This file cannot be read. Nothing was changed.' },
  notHeld: { status: 409, family: 'user', title: 'This nudge is no longer waiting for a decision.' },
  diskFull: {
    status: 507,
    family: 'transient',
    title:
      'The server’s disk is full, so nothing can be saved. Tell the person who runs Zest Bell. No sent message is lost.',
  },
  tooMuchAtOnce: {
    status: 429,
    family: 'transient',
    title: 'You started several long computations at once. Wait for one to finish, then try again.',
  },
  noDatabase: {
    status: 503,
    family: 'transient',
    title: 'Zest Bell cannot reach its database right now. Try again in a minute.',
  },
  busy: { status: 503, family: 'transient', title: 'Zest Bell is busy. Try again in a moment.' },
  notReady: { status: 503, family: 'transient', title: 'Zest Bell is still getting ready.' },
  internal: {
    status: 500,
    family: 'bug',
    title:
      'Something went wrong. Everything you saved is kept. Try again, and check the Send log to see what was sent.',
  },
} as const satisfies Record<string, ErrorKind>;

export type ErrorCode = keyof typeof ERRORS;

/** An expected failure on its way to the client. */
export class AppError extends Error {
  readonly code: ErrorCode;
  readonly problems: readonly Problem[];

  /** After how many seconds the same request may pass; null where nobody can say. */
  readonly retryAfter: number | null;

  constructor(
    code: ErrorCode,
    problems: readonly Problem[] = [],
    { cause, retryAfter = null }: { readonly cause?: unknown; readonly retryAfter?: number | null } = {},
  ) {
    super(ERRORS[code].title, { cause });
    this.code = code;
    this.problems = problems;
    this.retryAfter = retryAfter;
  }

  get status(): number {
    return ERRORS[this.code].status;
  }
}
