/** Whom a course worries about, unless it says otherwise. */
import type { Condition } from '../conditions/condition.ts';

export const DEFAULT_WORRY: Condition = { measure: 'courseGrade', is: '<', value: 60 };
