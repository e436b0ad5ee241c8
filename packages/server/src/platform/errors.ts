/**
 * Everything that can go wrong in a way the interface should explain, in one table. `docs/errors.md` is held to it by a
 * test. Families: the user's to mend, transient (try again later), a bug.
 */
import type { Problem } from '@zest-bell/core';

export type ErrorFamily = 'user' | 'transient' | 'bug';

export interface ErrorKind {
  readonly status: number;
  readonly family: ErrorFamily;
  /** A sentence for the person at the screen. */
  readonly title: string;
}

export const ERRORS = {
  signInNeeded: { status: 401, family: 'user', title: 'Sign in to go on.' },
  wrongPassword: { status: 401, family: 'user', title: 'That e-mail address and password do not belong together.' },
  tooManyAttempts: {
    status: 429,
    family: 'user',
    title: 'Too many attempts. Wait a quarter of an hour and try again.',
  },
  crossSiteRequest: { status: 403, family: 'user', title: 'This request did not come from Zest Bell’s own page.' },
  accountsExist: { status: 409, family: 'user', title: 'The first account is already there. Sign in instead.' },
  notInDemo: { status: 404, family: 'user', title: 'That is only there in the demo.' },
  notFound: { status: 404, family: 'user', title: 'There is nothing here, or it is not yours to see.' },
  invalidInput: { status: 400, family: 'user', title: 'Some of what was sent does not fit.' },
  inputTooLarge: { status: 413, family: 'user', title: 'That is more than can be taken in at once.' },
  tokenNeeded: { status: 401, family: 'user', title: 'Activity needs the course’s token as a bearer token.' },
  changedMeanwhile: {
    status: 409,
    family: 'user',
    title: 'Somebody changed this in the meantime. Load it again; your draft is kept.',
  },
  ruleOff: { status: 409, family: 'user', title: 'This rule is off. Turn it on before it can ring.' },
  wordingBroken: { status: 422, family: 'user', title: 'The wording of this rule cannot be rendered.' },
  wordingInUse: {
    status: 409,
    family: 'user',
    title: 'A rule says these words. Give it others before you remove them.',
  },
  ruleArchived: { status: 409, family: 'user', title: 'This rule is in the archive. Take it out first.' },
  reachesMany: {
    status: 409,
    family: 'user',
    title: 'This would write to more of the class than the course lets pass without a question. Say yes to it first.',
  },
  outsideAddresses: {
    status: 409,
    family: 'user',
    title: 'This would write about students to addresses outside your institution. Say yes to each of them first.',
  },
  mailStopped: { status: 409, family: 'user', title: 'The mail of this course is stopped. Start it before you ring.' },
  dataStale: {
    status: 409,
    family: 'user',
    title: 'The course’s data is older than its limit allows: who is present may look absent. Nothing was sent.',
  },
  courseOver: { status: 409, family: 'user', title: 'The course is over: nothing is sent after its last day.' },
  notUncertain: {
    status: 409,
    family: 'user',
    title: 'Only a message that is unclear or has failed can be settled by hand.',
  },
  ruleTrouble: { status: 409, family: 'user', title: 'This rule cannot decide. Nothing was sent.' },
  notReachable: { status: 409, family: 'user', title: 'Zest Bell cannot write to this student now.' },
  notHeld: { status: 409, family: 'user', title: 'This nudge no longer waits for a decision.' },
  diskFull: {
    status: 507,
    family: 'transient',
    title:
      'The disk of the server is full, so nothing can be saved. Whoever runs Zest Bell makes room; nothing sent is lost.',
  },
  tooMuchAtOnce: {
    status: 429,
    family: 'transient',
    title: 'You have asked for several long computations at once. Wait for one to end and try again.',
  },
  busy: { status: 503, family: 'transient', title: 'Zest Bell is busy with that already. Try again in a moment.' },
  notReady: { status: 503, family: 'transient', title: 'Zest Bell is still getting ready.' },
  internal: {
    status: 500,
    family: 'bug',
    title:
      'Something went wrong here. What you saved before is kept. Try again, and look at the send log for what left.',
  },
} as const satisfies Record<string, ErrorKind>;

export type ErrorCode = keyof typeof ERRORS;

/** An expected failure on its way to the client. */
export class AppError extends Error {
  readonly code: ErrorCode;
  readonly problems: readonly Problem[];

  constructor(code: ErrorCode, problems: readonly Problem[] = [], cause?: unknown) {
    super(ERRORS[code].title, { cause });
    this.code = code;
    this.problems = problems;
  }

  get status(): number {
    return ERRORS[this.code].status;
  }
}
