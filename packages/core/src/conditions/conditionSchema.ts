/** The condition tree as one schema, for what is published; it is read by `parseCondition`, which says more of what is wrong. */
import { z } from 'zod';
import { leafSchemas } from './condition.ts';

export function conditionSchema(): z.ZodType {
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
