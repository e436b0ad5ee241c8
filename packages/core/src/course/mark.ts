import { z } from 'zod';

/** A named mark of the course in place of a number (engine C1). */
export const markSchema = z.strictObject({ mark: z.string().min(1) });
