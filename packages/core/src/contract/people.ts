/** Who has access to a course, how programs come in, and what was done there. */
import { z } from 'zod';
import { ACCESS_ROLES, TOKEN_CAPABILITIES, type Capability } from '../access/capabilities.ts';
import type {
  AccessAnswer,
  DirectoryAnswer,
  ActsAnswer,
  AdminCourse,
  AdminPerson,
  AdminTrouble,
  InstallationAnswer,
  InvitationView,
  InvitedAnswer,
  TokenLine,
  UnprovenSender,
} from '../exchange/access.ts';
import { COURSE_MAKERS } from '../exchange/access.ts';
import { addressSchema } from '../course/entry.ts';
import type { SessionAnswer } from '../exchange/access.ts';
import { newPassword } from './access.ts';
import { created, file, get, json, nothing, post, put, remove } from './endpoint.ts';

const role = z.enum(ACCESS_ROLES, 'Choose a role');
/** The part of a link that nobody can guess. */
const secret = z.string().min(1).max(200);
const ANYWHERE = { inArchive: true } as const;

const actsQuery = z.object({
  /** The id before which to go on. */
  after: z.coerce.number().int().positive().optional(),
  limit: z.coerce.number().int().min(1).max(200).default(50),
  /** A name of today. */
  by: z.string().max(200).optional(),
  /** As the contract names a request, or the module of it. */
  act: z.string().max(100).optional(),
});

export const people = {
  access: get('/courses/{course}/access', 'course.read', 'Who has access to a course', {
    answer: json<AccessAnswer>(),
  }),
  terms: put('/courses/{course}/access-terms', 'access.write', 'Say what assistants may decide', {
    ...ANYWHERE,
    body: z.strictObject({ assistantsDecide: z.boolean() }),
    answer: nothing,
  }),
  setRole: put('/courses/{course}/access/{account}', 'access.write', 'Give somebody another role', {
    ...ANYWHERE,
    body: z.strictObject({ role }),
    answer: nothing,
  }),
  takeAway: remove('/courses/{course}/access/{account}', 'access.write', 'Take somebody’s access away', {
    ...ANYWHERE,
    answer: nothing,
  }),
  leave: post('/courses/{course}/access/leave', 'counts.read', 'Leave a course', { ...ANYWHERE, answer: nothing }),
  invite: post('/courses/{course}/invitations', 'access.write', 'Invite somebody', {
    ...ANYWHERE,
    body: z.strictObject({
      email: z.email('Type an email address such as ada@college.example').trim().toLowerCase().max(254),
      role,
    }),
    answer: created<InvitedAnswer>(),
  }),
  withdraw: remove('/courses/{course}/invitations/{invitation}', 'access.write', 'Take an invitation back', {
    ...ANYWHERE,
    answer: nothing,
  }),
  lookAtInvitation: post('/invitations/look', 'open', 'What an invitation says', {
    body: z.strictObject({ secret }),
    answer: json<InvitationView>(),
  }),
  accept: post('/invitations/accept', 'open', 'Accept an invitation', {
    body: z.strictObject({
      secret,
      /** For anyone who has no account yet. */
      account: z
        .strictObject({ name: z.string().trim().min(1, 'Type your name').max(120), password: newPassword })
        .optional(),
    }),
    answer: json<SessionAnswer>(),
  }),
  tokens: get('/courses/{course}/tokens', 'tokens.write', 'Tokens with which programs come in', {
    answer: json<TokenLine[]>(),
  }),
  makeToken: post('/courses/{course}/tokens', 'tokens.write', 'Make a token; its secret is shown once', {
    ...ANYWHERE,
    body: z.strictObject({
      name: z.string().trim().min(1, 'A token needs a name').max(80),
      capabilities: z
        .array(z.enum(TOKEN_CAPABILITIES as [Capability, ...Capability[]], 'A token cannot be given this'))
        .min(1, 'Choose what the token may do'),
      endsOn: z.iso.date('Type a day such as 2026-12-31').nullable().default(null),
    }),
    answer: created<{ readonly id: number; readonly secret: string }>(),
  }),
  revokeToken: remove('/courses/{course}/tokens/{token}', 'tokens.write', 'End a token at once', {
    ...ANYWHERE,
    answer: nothing,
  }),
  lastChange: get(
    '/courses/{course}/last-change',
    'course.read',
    'Who changed the limits, the sender or a wording last',
    {
      query: z.object({
        what: z.enum(['course.limits', 'course.sender', 'wording.change']),
        /** Of a wording: which. */
        of: z.string().max(80).optional(),
      }),
      answer: json<{ readonly by: string | null; readonly at: number | null }>(),
    },
  ),
  acts: get('/courses/{course}/acts', 'access.write', 'Who did what', { query: actsQuery, answer: json<ActsAnswer>() }),
  actsFile: get('/courses/{course}/acts/file', 'access.write', 'Who did what, as a table (CSV)', {
    query: actsQuery.pick({ by: true, act: true }),
    answer: file,
  }),
};

export const admin = {
  people: get('/admin/people', 'administrator', 'Everybody with an account', {
    query: actsQuery.pick({ after: true, limit: true }),
    answer: json<{ readonly people: readonly AdminPerson[]; readonly next: number | null }>(),
  }),
  setAdministrator: put('/admin/people/{account}', 'administrator', 'Make somebody an administrator, or no longer', {
    body: z.strictObject({ isAdministrator: z.boolean() }),
    answer: nothing,
  }),
  resetFactors: post('/admin/people/{account}/factors/reset', 'administrator', 'Take a lost second factor away', {
    answer: nothing,
  }),
  separate: post(
    '/admin/people/{account}/separate',
    'administrator',
    'Separate an account that was joined to another',
    { answer: nothing },
  ),
  directory: get('/admin/directory', 'administrator', 'The institution’s own sign-in', {
    answer: json<DirectoryAnswer>(),
  }),
  setDirectory: put('/admin/directory', 'administrator', 'Connect the institution’s own sign-in, or change it', {
    body: z.strictObject({
      // What the server's own settings say is left out.
      issuer: z.url('Type an address such as https://login.uni.example').max(500).optional(),
      clientId: z.string().trim().min(1, 'Type the client id').max(300).optional(),
      /** Left out: it stays as it is. */
      secret: z.string().min(1).max(1000).optional(),
      name: z.string().trim().min(1, 'Type what the button says').max(60, 'At most 60 characters'),
      trustsAddresses: z.boolean(),
      admits: z
        .strictObject({
          claim: z.string().trim().min(1, 'Type the name of a claim').max(200),
          value: z.string().trim().min(1, 'Type a value').max(200),
        })
        .nullable(),
      acr: z.array(z.string().trim().min(1).max(200)).max(20),
      amr: z.array(z.string().trim().min(1).max(50)).max(20),
      passwordsOff: z.boolean(),
    }),
    answer: nothing,
  }),
  removeDirectory: remove('/admin/directory', 'administrator', 'Disconnect the institution’s own sign-in', {
    answer: nothing,
  }),
  courses: get('/admin/courses', 'administrator', 'All courses, without their students', {
    query: actsQuery.pick({ after: true, limit: true }),
    answer: json<{ readonly courses: readonly AdminCourse[]; readonly next: number | null }>(),
  }),
  troubles: get('/admin/troubles', 'administrator', 'What keeps rules or mail waiting, over all courses', {
    answer: json<AdminTrouble[]>(),
  }),
  acts: get('/admin/acts', 'administrator', 'Who did what, over all courses', {
    query: actsQuery,
    answer: json<ActsAnswer>(),
  }),
  settings: get('/admin/settings', 'administrator', 'What holds for the whole installation', {
    answer: json<InstallationAnswer>(),
  }),
  senders: get('/admin/senders', 'administrator', 'Senders whose addresses nobody has proven', {
    answer: json<UnprovenSender[]>(),
  }),
  acceptAddress: post('/admin/senders/accept', 'administrator', 'Accept an address as proven for one account', {
    body: z.strictObject({ account: z.number().int(), address: addressSchema }),
    answer: nothing,
  }),
  setSettings: put('/admin/settings', 'administrator', 'Change what holds for the whole installation', {
    body: z.strictObject({
      factorRequired: z.boolean(),
      keepMonths: z.number().int().min(1, 'At least one month').max(120, 'At most ten years'),
      // What is left out stays as it is.
      sender: z
        .strictObject({ name: z.string().trim().max(120), address: addressSchema })
        .nullable()
        .optional(),
      senderDomains: z
        .array(
          z
            .string()
            .trim()
            .toLowerCase()
            .regex(
              /^(\*\.)?[a-z0-9-]+(\.[a-z0-9-]+)+$|^[^\s@]+@[a-z0-9-]+(\.[a-z0-9-]+)+$/,
              'Type a domain such as uni.example or *.uni.example, or one address',
            ),
        )
        .max(100, 'At most 100 domains and addresses')
        .optional(),
      name: z.string().trim().max(80, 'At most 80 characters').optional(),
      shelfKeepers: z.array(z.number().int()).max(2000).optional(),
      coursesBy: z.enum(COURSE_MAKERS).optional(),
      courseMakers: z.array(z.number().int()).max(2000).optional(),
    }),
    answer: nothing,
  }),
};
