/** Why somebody changes what runs: optional, for the people they share the course with. */
import { z } from 'zod';
import { LONGEST_REASON } from '../exchange/reasons.ts';

export const why = z.string().trim().max(LONGEST_REASON, `At most ${LONGEST_REASON} characters`).default('');
