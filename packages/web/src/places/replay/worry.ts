import type { Condition } from '@zest-bell/core/conditions';

/** The outcome that one worries about, unless told otherwise. */
export const WORRY: Condition = { measure: 'courseGrade', is: '<', value: 60 };
