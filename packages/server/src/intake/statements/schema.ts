/**
 * Statements as the Experience API defines them (xAPI 1.0.3 part 2, and 2.0), read strictly: a property that is not known, a
 * null outside of extensions, an actor without exactly one identifier refuses the statement. Rules typed from memory of the
 * specification.
 */
import { createHash } from 'node:crypto';
import { z } from 'zod';
import { VOIDED } from '@zest-bell/core/imports';

const iri = z.string().regex(/^[a-z][a-z0-9+.-]*:\S+$/i, 'Write a whole IRI, with its scheme');
export const uuidSchema = z
  .string()
  .regex(/^[0-9a-f]{8}-[0-9a-f]{4}-[1-8][0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/i, 'This is no UUID');
const words = z.record(z.string().regex(/^[a-z]{2,8}(-[a-z0-9]{1,8})*$/i, 'This is no language tag'), z.string());
const extensions = z.record(iri, z.unknown());
const timestamp = z.iso
  .datetime({ offset: true, local: true })
  .refine((s) => !/-00:?00$/.test(s), 'An offset of minus zero is not allowed');
const duration = z
  .string()
  .regex(
    /^P(?!$)(\d+(\.\d+)?W|(\d+Y)?(\d+M)?(\d+D)?(T(?!$)(\d+H)?(\d+M)?(\d+(\.\d+)?S)?)?)$/,
    'This is no ISO 8601 duration',
  );

const identifiers = {
  mbox: z
    .string()
    .regex(/^mailto:[^@\s]+@[^@\s]+$/i, 'Write a mailbox as mailto:ada@college.example')
    .optional(),
  mbox_sha1sum: z
    .string()
    .regex(/^[0-9a-f]{40}$/i, 'This is no SHA-1 in hexadecimal digits')
    .optional(),
  openid: iri.optional(),
  account: z.strictObject({ homePage: iri, name: z.string() }).optional(),
};
interface AgentIdentifiers {
  readonly mbox?: string | undefined;
  readonly mbox_sha1sum?: string | undefined;
  readonly openid?: string | undefined;
  readonly account?: { readonly homePage: string; readonly name: string } | undefined;
}
const identifiersIn = (a: AgentIdentifiers): number =>
  [a.mbox, a.mbox_sha1sum, a.openid, a.account].filter((id) => id !== undefined).length;

const agent = z
  .strictObject({ objectType: z.literal('Agent').optional(), name: z.string().optional(), ...identifiers })
  .refine((a) => identifiersIn(a) === 1, 'An agent has exactly one of mbox, mbox_sha1sum, openid and account');
const group = z
  .strictObject({
    objectType: z.literal('Group'),
    name: z.string().optional(),
    member: z.array(agent).optional(),
    ...identifiers,
  })
  .refine(
    (g) => identifiersIn(g) === 1 || (identifiersIn(g) === 0 && g.member !== undefined),
    'A group has one identifier, or members',
  );
const actor = z.union([agent, group]);

const verb = z.strictObject({ id: iri, display: words.optional() });
const component = z.array(z.strictObject({ id: z.string(), description: words.optional() })).optional();
const activity = z.strictObject({
  objectType: z.literal('Activity').optional(),
  id: iri,
  definition: z
    .strictObject({
      name: words.optional(),
      description: words.optional(),
      type: iri.optional(),
      moreInfo: iri.optional(),
      extensions: extensions.optional(),
      interactionType: z
        .enum([
          'true-false',
          'choice',
          'fill-in',
          'long-fill-in',
          'matching',
          'performance',
          'sequencing',
          'likert',
          'numeric',
          'other',
        ])
        .optional(),
      correctResponsesPattern: z.array(z.string()).optional(),
      choices: component,
      scale: component,
      source: component,
      target: component,
      steps: component,
    })
    .optional(),
});
const reference = z.strictObject({ objectType: z.literal('StatementRef'), id: uuidSchema });

const result = z.strictObject({
  score: z
    .strictObject({
      scaled: z.number().min(-1).max(1).optional(),
      raw: z.number().optional(),
      min: z.number().optional(),
      max: z.number().optional(),
    })
    .refine((s) => s.min === undefined || s.max === undefined || s.min < s.max, 'The least score is below the greatest')
    .refine(
      (s) => s.raw === undefined || ((s.min ?? s.raw) <= s.raw && s.raw <= (s.max ?? s.raw)),
      'A score lies between its bounds',
    )
    .optional(),
  success: z.boolean().optional(),
  completion: z.boolean().optional(),
  response: z.string().optional(),
  duration: duration.optional(),
  extensions: extensions.optional(),
});

const activities = z.union([activity.transform((a) => [a]), z.array(activity)]);
const context = z.strictObject({
  registration: uuidSchema.optional(),
  instructor: actor.optional(),
  team: group.optional(),
  contextActivities: z
    .strictObject({
      parent: activities.optional(),
      grouping: activities.optional(),
      category: activities.optional(),
      other: activities.optional(),
    })
    .optional(),
  contextAgents: z.array(z.unknown()).optional(),
  contextGroups: z.array(z.unknown()).optional(),
  revision: z.string().optional(),
  platform: z.string().optional(),
  language: z.string().optional(),
  statement: reference.optional(),
  extensions: extensions.optional(),
});

const attachment = z.strictObject({
  usageType: iri,
  display: words,
  description: words.optional(),
  contentType: z.string(),
  length: z.number().int().nonnegative(),
  sha2: z.string(),
  fileUrl: iri.optional(),
});

const subStatement = z.strictObject({
  objectType: z.literal('SubStatement'),
  actor,
  verb,
  object: z.union([
    activity,
    agent.refine((a) => a.objectType === 'Agent', 'Say that this is an Agent'),
    group,
    reference,
  ]),
  result: result.optional(),
  context: context.optional(),
  timestamp: timestamp.optional(),
  attachments: z.array(attachment).optional(),
});

export const statementSchema = z
  .strictObject({
    id: uuidSchema.optional(),
    actor,
    verb,
    object: z.union([
      activity,
      agent.refine((a) => a.objectType === 'Agent', 'Say that this is an Agent'),
      group,
      reference,
      subStatement,
    ]),
    result: result.optional(),
    context: context.optional(),
    timestamp: timestamp.optional(),
    stored: z.string().optional(),
    authority: z.unknown().optional(),
    version: z
      .string()
      .regex(/^(1\.0(\.\d+)?|2\.0(\.\d+)?)$/, 'The version is 1.0 or 2.0')
      .optional(),
    attachments: z.array(attachment).optional(),
  })
  .refine((s) => s.verb.id !== VOIDED || ('objectType' in s.object && s.object.objectType === 'StatementRef'), {
    path: ['object'],
    message: 'Only a statement can be voided',
  })
  .refine(
    (s) => {
      const isActivity =
        !('objectType' in s.object) || s.object.objectType === undefined || s.object.objectType === 'Activity';
      return isActivity || (s.context?.revision === undefined && s.context?.platform === undefined);
    },
    { path: ['context'], message: 'Revision and platform are about activities alone' },
  );
export type Statement = z.infer<typeof statementSchema>;

/** Objects with their keys in order, so that equal content gives one text. */
function canonical(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(canonical);
  if (typeof value !== 'object' || value === null) return value;
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  return Object.fromEntries(entries.toSorted(([a], [b]) => (a < b ? -1 : 1)).map(([k, v]) => [k, canonical(v)]));
}

/** What two statements of one id must share; what the store adds on its own is left out (part 2, 2.3). */
export function digestOf({ id: _i, stored: _s, authority: _a, version: _v, ...rest }: Statement): string {
  return createHash('sha256')
    .update(JSON.stringify(canonical(rest)))
    .digest('base64url');
}

/** The one thing by which an actor is known, as a text. */
export function actorKey(a: AgentIdentifiers): string {
  if (a.mbox !== undefined) return a.mbox.toLowerCase();
  if (a.mbox_sha1sum !== undefined) return `sha1:${a.mbox_sha1sum.toLowerCase()}`;
  if (a.openid !== undefined) return a.openid;
  return a.account ? `${a.account.homePage} ${a.account.name}` : '';
}

export const agentSchema = actor;
