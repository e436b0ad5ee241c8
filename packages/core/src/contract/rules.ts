/** Requests about rules: making, changing, ordering, and archiving them, trying them before they are on, and their history. */
import { z } from 'zod';
import { RULE_STATUSES } from '../rules/rule.ts';
import type { LimitLog } from '../rounds/decide/log.ts';
import type {
  PastAnswer,
  PastRoundAnswer,
  PastRoundLine,
  RehearsalAnswer,
  RingAnswer,
  RuleCard,
  RuleChange,
  RuleVersionAnswer,
  StarterAnswer,
} from '../exchange/rules.ts';
import { documentOf } from './documents.ts';
import { why } from './why.ts';
import { created, get, json, nothing, post, put, remove } from './endpoint.ts';

const version = z.number().int();
const yes = {
  /** A yes to writing to more of the class than passes without a question. */
  confirmed: z.boolean().default(false),
  /** Addresses outside the institution that may be written to: named to the instructor, who said yes. */
  outside: z.array(z.string().max(320)).max(2000).default([]),
};

export const rules = {
  all: get('/courses/{course}/rules', 'course.read', 'All rules', { answer: json<RuleCard[]>() }),
  make: post('/courses/{course}/rules', 'drafts.write', 'Make a rule, as a draft', {
    body: z.strictObject({
      rule: documentOf('Rule'),
      /** The starter it began as; the course may not have its wording yet. */
      starter: z.string().optional(),
    }),
    answer: created<RuleCard>(),
  }),
  order: post('/courses/{course}/rules/order', 'rules.run', 'The order in which rules decide', {
    body: z.strictObject({ rules: z.array(z.string()).max(1000) }),
    answer: json<RuleCard[]>(),
  }),
  status: post('/courses/{course}/rules/status', 'rules.run', 'Turn rules on or off: all of them, or none', {
    body: z.strictObject({
      rules: z
        .array(z.strictObject({ rule: z.string(), version }))
        .min(1)
        .max(200),
      status: z.enum(RULE_STATUSES),
      ...yes,
      /** Turned on for spells that start from now on alone, or for all; left out, as it was. */
      newSpellsOnly: z.boolean().optional(),
    }),
    answer: json<RuleChange[]>(),
  }),
  change: put('/courses/{course}/rules/{rule}', 'drafts.write', 'Change a rule', {
    body: z.strictObject({ rule: documentOf('Rule'), version, ...yes, why }),
    answer: json<RuleChange>(),
  }),
  publish: post('/courses/{course}/rules/{rule}/publish', 'rules.run', 'Publish what was drafted beside a rule', {
    body: z.strictObject({ version, ...yes, why }),
    answer: json<RuleChange>(),
  }),
  dropDraft: remove('/courses/{course}/rules/{rule}/draft', 'drafts.write', 'Drop what was drafted beside a rule', {
    answer: nothing,
  }),
  sender: put('/courses/{course}/rules/{rule}/sender', 'rules.run', 'Who a rule writes as: you, or the course', {
    body: z.strictObject({ as: z.enum(['me', 'course']) }),
    answer: nothing,
  }),
  archive: post('/courses/{course}/rules/{rule}/archive', 'rules.run', 'Put a rule away', {
    body: z.strictObject({ version }),
    answer: json<RuleChange>(),
  }),
  unarchive: post('/courses/{course}/rules/{rule}/unarchive', 'rules.run', 'Take a rule out again', {
    body: z.strictObject({ version, status: z.enum(RULE_STATUSES).default('paused'), ...yes }),
    answer: json<RuleChange>(),
  }),
  starters: get('/courses/{course}/rules/starters', 'course.read', 'Rules to begin with, as they would be here', {
    answer: json<StarterAnswer[]>(),
  }),
  limitLog: get('/courses/{course}/rules/limit-log', 'course.read', 'What limits are counted from', {
    query: z.object({ rule: z.string().max(80).optional(), at: z.coerce.number<number | string>().int() }),
    answer: json<LimitLog>(),
  }),
  rehearse: post('/courses/{course}/rules/rehearse', 'course.read', 'What a round would send, with no effect', {
    body: z.strictObject({ rule: documentOf('Rule'), at: z.number().int().optional() }),
    answer: json<RehearsalAnswer>(),
  }),
  past: post('/courses/{course}/rules/past', 'course.read', 'What a rule would have done so far', {
    body: z.strictObject({ rule: documentOf('Rule') }),
    answer: json<PastAnswer>(),
  }),
  ring: post('/courses/{course}/rules/{rule}/ring', 'rules.run', 'Ring now', {
    body: z.strictObject({ confirmed: z.boolean().default(false) }),
    answer: json<RingAnswer>(),
  }),
  versions: get('/courses/{course}/rules/{rule}/versions', 'course.read', 'What a rule was', {
    answer: json<RuleVersionAnswer[]>(),
  }),
  rounds: get('/courses/{course}/rules/{rule}/rounds', 'course.read', 'Its rounds, the latest first', {
    query: z.object({ before: z.coerce.number<number | string>().int().max(Number.MAX_SAFE_INTEGER).optional() }),
    answer: json<PastRoundLine[]>(),
  }),
  round: get('/courses/{course}/rules/{rule}/rounds/{round}', 'course.read', 'One of its rounds', {
    answer: json<PastRoundAnswer>(),
  }),
};
