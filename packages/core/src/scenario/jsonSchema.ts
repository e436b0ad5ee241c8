/** The published JSON Schema of the scenario format, generated from the schemas that read it. */
import { z } from 'zod';
import { leafSchemas } from '../conditions/condition.ts';
import { ruleSchema } from '../rules/rule.ts';
import { scenarioSchema } from './format.ts';

/** The condition tree as a schema; it is read by `parseCondition`, which says more of what is wrong. */
function conditionSchema(): z.ZodType {
  const condition: z.ZodType = z.lazy(() => z.union([...leafSchemas(), ...groups]));
  condition.meta({ id: 'condition' });
  const children = z.array(condition).min(1);
  const groups = [
    z.strictObject({ all: children }),
    z.strictObject({ any: children }),
    z.strictObject({ none: children }),
  ];
  return condition;
}

export function scenarioJsonSchema(): object {
  const rule = ruleSchema.extend({ when: conditionSchema() });
  const whole = scenarioSchema.extend({ rules: z.array(rule).optional() });
  return {
    ...z.toJSONSchema(whole, { io: 'input', unrepresentable: 'any' }),
    $id: 'https://zestbell.example/scenario@1.schema.json',
    title: 'Zest Bell scenario',
  };
}
