/** A rule: whom to reach, when to look, what to say, how often (engine §6). */
import { instantSchema } from '../time/instantSchema.ts';
import { z } from 'zod';
import { ROLES } from '../course/person.ts';
import { parseCondition, type Condition } from '../conditions/condition.ts';
import { wholeFrom, type Range } from '../problem/range.ts';
import { numberIn } from '../problem/rangeSchema.ts';
import { addressSchema } from '../course/entry.ts';
import { joinPath, problemsOfIssues, type ParseResult, type Problem } from '../problem/problem.ts';
import { durationSchema, type Duration } from '../time/duration.ts';
import type { Instant } from '../time/instant.ts';
import { rhythmSchema, type Rhythm } from '../time/rhythm.ts';

export const RULE_STATUSES = ['draft', 'on', 'paused'] as const;
export type RuleStatus = (typeof RULE_STATUSES)[number];

/**
 * How much a rule's messages matter, lightest first: a light reminder never takes the place of a strong message in the
 * message budget (engine R7).
 */
export const RULE_WEIGHTS = ['light', 'normal', 'strong'] as const;
export type RuleWeight = (typeof RULE_WEIGHTS)[number];

/** `student`, `instructor`, `contact:KIND` or `address:someone@example.edu`. */
export type RecipientSpec = 'student' | 'instructor' | `contact:${string}` | `address:${string}`;

export interface Step {
  /** How long after the spell's start; days are course days. */
  readonly after: Duration;
  readonly deliver: 'send' | 'hold';
  readonly to: readonly RecipientSpec[];
  /** The id of a wording. */
  readonly wording: string;
  /** Each recipient gets one message a round about all students of the step; never beside `student` (engine R11a). */
  readonly together?: boolean | undefined;
}

/** A step that goes to others alone: its nudges are about the student, and none is written to them (engine R11b). */
export const isAlert = (step: Pick<Step, 'to'>): boolean => !step.to.includes('student');

/** A rule that only tells others: no step of it writes to the student. */
export const tellsOthersOnly = (rule: { readonly steps: readonly Pick<Step, 'to'>[] }): boolean =>
  rule.steps.every(isAlert);

/** How often one student hears from a rule; null is no limit (engine R6). */
export interface RepeatLimit {
  readonly perSpell: number | null;
  readonly perTerm: number | null;
  readonly gap: Duration | null;
  /** No further nudge of the rule in a spell in which the student replied to one. */
  readonly untilReply?: true | undefined;
}

export interface Audience {
  readonly roles: readonly (typeof ROLES)[number][];
  /** Empty means all. */
  readonly sections: readonly string[];
  /** Ids of people left out by name. */
  readonly except: readonly string[];
}

export interface Rule {
  readonly id: string;
  readonly name: string;
  readonly note: string;
  readonly label: string;
  readonly status: RuleStatus;
  readonly audience: Audience;
  readonly when: Condition;
  readonly rhythm: Rhythm;
  readonly repeat: RepeatLimit;
  /** Essential rules pass the message budget and reach students who paused nudges. */
  readonly essential: boolean;
  readonly weight: RuleWeight;
  /** Only spells that start at or after this count; set when turned on "for new spells only". */
  readonly spellsFrom: Instant | null;
  readonly steps: readonly Step[];
}

const recipientSchema = z
  .string()
  .max(330)
  .refine(
    (s) =>
      s === 'student' ||
      s === 'instructor' ||
      /^contact:\S.*$/.test(s) ||
      (s.startsWith('address:') && addressSchema.safeParse(s.slice(8)).success),
    'A recipient is student, instructor, contact:KIND or address:someone@college.example',
  );

/** How often a rule may write to somebody, where that is limited. */
export const TIMES_RANGE: Range = wholeFrom(1, 1000);

const count = numberIn(TIMES_RANGE).nullish();

/** The rule format but for its condition, which `parseCondition` reads. */
export const ruleSchema = z.strictObject({
  id: z.string().min(1).max(80),
  name: z.string().trim().min(1, 'A rule needs a name').max(120, 'A name has at most 120 characters'),
  note: z.string().max(2000).default(''),
  label: z.string().max(40).default(''),
  status: z.enum(RULE_STATUSES),
  audience: z.strictObject({
    roles: z.array(z.enum(ROLES)).min(1, 'Choose at least one role'),
    sections: z.array(z.string().max(200)).max(500, 'At most 500 sections').default([]),
    except: z.array(z.string().max(200)).max(5000, 'At most 5,000 people').default([]),
  }),
  when: z.unknown(),
  rhythm: rhythmSchema,
  repeat: z
    .strictObject({ perSpell: count, perTerm: count, gap: durationSchema.nullish(), untilReply: z.boolean().nullish() })
    .default({})
    .transform(({ perSpell, perTerm, gap, untilReply }) => ({
      perSpell: perSpell ?? null,
      perTerm: perTerm ?? null,
      gap: gap ?? null,
      ...(untilReply && { untilReply: true as const }),
    })),
  essential: z.boolean().default(false),
  weight: z.enum(RULE_WEIGHTS).default('normal'),
  spellsFrom: instantSchema.nullish().transform((t) => t ?? null),
  steps: z
    .array(
      z.strictObject({
        after: durationSchema.default({ days: 0, hours: 0 }),
        deliver: z.enum(['send', 'hold']),
        to: z
          .array(recipientSchema)
          .min(1, 'Choose who gets the message of this step')
          .max(50, 'A step writes to at most 50 recipients'),
        wording: z.string().min(1, 'Choose a wording'),
        together: z.boolean().default(false),
      }),
    )
    .min(1, 'A rule needs at least one step')
    .max(20, 'A rule has at most 20 steps'),
});

/** Reads a rule; every problem of it at its path. `base` is prefixed to the paths. */
export function parseRule(draft: unknown, base = ''): ParseResult<Rule> {
  const parsed = ruleSchema.safeParse(draft);
  const problems: Problem[] = parsed.success ? [] : problemsOfIssues(parsed.error.issues, base);
  const draftWhen = typeof draft === 'object' && draft !== null ? (draft as { when?: unknown }).when : undefined;
  const when = parseCondition(draftWhen, joinPath(base, 'when'));
  if (!when.ok) problems.push(...when.problems);
  if (!parsed.success || !when.ok) return { ok: false, problems };
  parsed.data.steps.forEach((step, i) => {
    if (step.together && step.to.includes('student')) {
      problems.push({
        path: joinPath(base, 'steps', i, 'together'),
        code: 'togetherWithStudent',
        message: 'One message about several students cannot go to a student. Leave out the student, or write one each',
      });
    }
    const before = parsed.data.steps[i - 1]?.after;
    if (before && (step.after.days < before.days || step.after.hours < before.hours)) {
      problems.push({
        path: joinPath(base, 'steps', i, 'after'),
        code: 'stepsFall',
        message: 'A later step cannot come before the one above it',
      });
    }
  });
  if (problems.length > 0) return { ok: false, problems };
  return { ok: true, value: { ...parsed.data, when: when.value } as Rule };
}
