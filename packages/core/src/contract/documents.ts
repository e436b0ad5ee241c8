/**
 * Documents inside requests, each read by a parser that reports more than a schema can. The contract takes them
 * as they come; openapi.json describes them under these names.
 */
import { z } from 'zod';
import { toldEventSchema, toldGradeSchema } from '../activity/told.ts';
import { conditionSchema } from '../conditions/conditionSchema.ts';
import { viewSchema } from '../lookout/view.ts';
import { limitsSchema } from '../rounds/decide/courseLimits.ts';
import { ruleSchema } from '../rules/rule.ts';
import { wordingSchema } from '../wording/wording.ts';

type JsonDocument = Readonly<Record<string, unknown>>;

const NAMES = ['Condition', 'Rule', 'Wording', 'Limits', 'View', 'ActivityEvent', 'ActivityGrade'] as const;
export type DocumentName = (typeof NAMES)[number];

const place = (name: DocumentName): string => `#/components/schemas/${name}Document`;

/** A document of this name is here. */
export const documentOf = (name: DocumentName): z.ZodUnknown => z.unknown().meta({ $ref: place(name) });

/** JSON Schema 2020-12 of what may be sent. */
export const sentAs = (schema: z.ZodType): JsonDocument =>
  z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any', target: 'draft-2020-12' });

function schemas(): Readonly<Record<DocumentName, z.ZodType>> {
  const when = documentOf('Condition');
  return {
    Condition: conditionSchema(),
    Rule: ruleSchema.extend({ when }),
    Wording: wordingSchema,
    Limits: limitsSchema,
    View: viewSchema.extend({ when: when.nullable().default(null) }),
    ActivityEvent: toldEventSchema,
    ActivityGrade: toldGradeSchema,
  };
}

/** The schemas of all documents, by the names under which requests refer to them. */
export function documentSchemas(): JsonDocument {
  const made = schemas();
  return Object.fromEntries(
    NAMES.map((name) => {
      const { $schema: _, ...schema } = sentAs(made[name]);
      // A condition holds conditions.
      const placed = JSON.stringify(schema).replaceAll('"$ref":"#"', `"$ref":"${place(name)}"`);
      return [`${name}Document`, JSON.parse(placed) as JsonDocument];
    }),
  );
}
