/** What requests answer, as it was read off their types when this was written: `npm run answers`. */
import { readFileSync } from 'node:fs';
import type { AnswerSchemas } from '@zest-bell/core/contract';

export const ANSWERS = JSON.parse(readFileSync(new URL('./answers.json', import.meta.url), 'utf8')) as AnswerSchemas;
