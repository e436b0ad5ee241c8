/** The published JSON Schema of the scenario format, generated from the schemas that read it. */
import { z } from 'zod';
import { conditionSchema } from '../conditions/conditionSchema.ts';
import { ruleSchema } from '../rules/rule.ts';
import { scenarioSchema } from './format.ts';

export function scenarioJsonSchema(): object {
  const rule = ruleSchema.extend({ when: conditionSchema() });
  const whole = scenarioSchema.extend({ rules: z.array(rule).optional() });
  return {
    ...z.toJSONSchema(whole, { io: 'input', unrepresentable: 'any' }),
    $id: 'https://zestbell.example/scenario@1.schema.json',
    title: 'Zest Bell scenario',
  };
}
