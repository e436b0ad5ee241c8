/** Connections: sources that a course is fed from over open standards. Addresses that are called are an administrator's alone. */
import { z } from 'zod';
import type {
  Arrivals,
  ClassesAnswer,
  PlatformCard,
  Pulled,
  RegistrationAddress,
  SourceCard,
} from '../connections/exchange.ts';
import { created, get, json, nothing, post, put, remove } from './endpoint.ts';

const address = z.url({ protocol: /^https?$/, error: 'Type a web address such as https://sis.example.edu' }).max(500);

const origin = address
  .refine((text) => !text.includes('*') && (!URL.canParse(text) || new URL(text).origin === text.replace(/\/$/, '')), {
    message: 'Type an origin such as https://platform.example.edu, without a path',
  })
  .transform((text) => text.replace(/\/$/, ''));

/** How a OneRoster service is reached. */
const service = {
  /** What comes before `/ims/oneroster`. */
  base: address,
  version: z.enum(['1.2', '1.1']),
  tokenUrl: address,
  clientId: z.string().trim().min(1, 'Type the client id').max(300),
  clientSecret: z.string().min(1, 'Type the client secret').max(1000),
  scopes: z.array(z.string().min(1).max(300)).max(20).optional(),
};

export const connections = {
  platforms: get('/admin/platforms', 'administrator', 'Learning platforms that may launch', {
    answer: json<PlatformCard[]>(),
  }),
  addPlatform: post('/admin/platforms', 'administrator', 'Let a learning platform launch (LTI 1.3)', {
    body: z.strictObject({
      issuer: z.string().trim().min(1, 'Type the issuer').max(500),
      clientId: z.string().trim().min(1, 'Type the client id').max(300),
      deployments: z.array(z.string().trim().min(1).max(300)).min(1, 'Name a deployment at least').max(200),
      authEndpoint: address,
      tokenEndpoint: address,
      jwksUrl: address,
      /** What an assertion is made out to; the token endpoint, unless told otherwise. */
      tokenAudience: z.string().max(500).nullable().default(null),
      frameOrigins: z.array(origin).max(20).default([]),
      serviceOrigins: z.array(origin).max(20).default([]),
    }),
    answer: created<{ readonly id: number }>(),
  }),
  registerPlatform: post(
    '/admin/platforms/address',
    'administrator',
    'An address at which a platform registers itself',
    { body: z.strictObject({ origin }), answer: json<RegistrationAddress>() },
  ),
  approvePlatform: post('/admin/platforms/{platform}/yes', 'administrator', 'Let a platform that registered launch', {
    body: z.strictObject({ deployments: z.array(z.string().trim().min(1).max(300)).max(200).default([]) }),
    answer: nothing,
  }),
  trustPlatform: put(
    '/admin/platforms/{platform}/trust',
    'administrator',
    'Say whether the addresses that a platform gives may be trusted',
    { body: z.strictObject({ trusts: z.boolean() }), answer: nothing },
  ),
  removePlatform: remove('/admin/platforms/{platform}', 'administrator', 'Let a platform launch no more', {
    answer: nothing,
  }),
  arrivals: get('/courses/{course}/arrivals', 'course.read', 'What platforms send to a course by themselves', {
    answer: json<Arrivals[]>(),
  }),
  sources: get('/courses/{course}/sources', 'course.read', 'Where a course is fed from', {
    answer: json<SourceCard[]>(),
  }),
  pull: post('/courses/{course}/sources/{source}/pull', 'data.write', 'Ask a source at once', {
    answer: json<Pulled>(),
  }),
  disconnect: remove('/courses/{course}/sources/{source}', 'data.write', 'Disconnect a source; what it brought stays', {
    answer: nothing,
  }),
  classes: post('/admin/sources/oneroster/classes', 'administrator', 'The classes that a OneRoster service has', {
    body: z.strictObject(service),
    answer: json<ClassesAnswer>(),
  }),
  addOneRoster: post('/admin/sources/oneroster', 'administrator', 'Feed a course from a OneRoster service', {
    body: z.strictObject({
      kind: z.literal('oneroster').default('oneroster'),
      ...service,
      course: z.number().int().min(1),
      /** By its sourcedId. */
      class: z.string().trim().min(1, 'Name the class by its sourcedId').max(300),
    }),
    answer: created<{ readonly id: number }>(),
  }),
};
