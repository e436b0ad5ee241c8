/** What the other packages use of `contract`. */
export { contract } from './contract.ts';
export { endpoints, type NamedEndpoint } from './endpoints.ts';
export {
  urlOf,
  type AnswerOf,
  type AnyEndpoint,
  type BodyGiven,
  type BodyRead,
  type RequiredPermission,
  type PathGiven,
  type QueryGiven,
} from './endpoint.ts';
export { answerText, asideNote, gradePoints, noteText, sendDelay } from './fields.ts';
export { decisionsSchema, MOST_EVENTS } from './intake.ts';
export { MOST_SHEET_ROWS, type LogQuery, type WriteToRead } from './mail.ts';
export { API_BASE, openApi, type AnswerSchemas } from './openapi.ts';
export type { TriedRule } from './rounds.ts';
export { SENT, type HandlerAnswer, type RequestArguments, type Serve } from './serve.ts';
