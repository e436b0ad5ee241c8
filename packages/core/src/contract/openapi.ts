/** The contract as an OpenAPI document (OpenAPI Specification 3.1.1). */
import { CAPABILITIES } from '../access/capabilities.ts';
import { endpoints } from './endpoints.ts';
import { documentSchemas, sentAs } from './documents.ts';
import type { AnyEndpoint } from './endpoint.ts';

/** Everything is served below it. */
export const API_BASE = '/api/v1';

type JsonSchema = Readonly<Record<string, unknown>>;

/** What requests answer, as JSON Schema: by module and name, and the types of their own that these refer to. */
export interface AnswerSchemas {
  readonly schemas: JsonSchema;
  readonly answers: Readonly<Record<string, JsonSchema>>;
}

/** `version` is the application's, `codes` those of the problems that it tells. */
export function openApi(version: string, { schemas, answers }: AnswerSchemas, codes: readonly string[]): JsonSchema {
  const paths: Record<string, Record<string, JsonSchema>> = {};
  for (const { module, name, endpoint } of endpoints) {
    const path = `${API_BASE}${endpoint.path}`;
    paths[path] = {
      ...paths[path],
      [endpoint.method.toLowerCase()]: operationOf(
        `${module}.${name}`,
        module,
        endpoint,
        answers[`${module}.${name}`] ?? {},
      ),
    };
  }
  Object.assign(paths, OTHERS);
  return {
    openapi: '3.1.1',
    info: {
      title: 'Zest Bell',
      version,
      license: {
        name: 'All rights reserved; for use with an installation of Zest Bell',
        identifier: 'LicenseRef-Zest-Bell',
      },
    },
    servers: [{ url: '/', description: 'The installation that serves this document' }],
    paths,
    components: {
      schemas: { ...schemas, ...documentSchemas(), ProblemDetails: problemOf(codes) },
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'zest-bell' },
        key: { type: 'http', scheme: 'bearer' },
        basic: { type: 'http', scheme: 'basic' },
      },
    },
  };
}

function operationOf(operationId: string, module: string, endpoint: AnyEndpoint, answer: JsonSchema): JsonSchema {
  const { needs, says, body, query, upload } = endpoint;
  const security = securityOf(needs);
  const content = upload
    ? { 'application/octet-stream': { schema: { contentMediaType: 'application/octet-stream' } } }
    : body && { 'application/json': { schema: sentAs(body) } };
  return {
    operationId,
    summary: says,
    tags: [module],
    'x-needs': needs,
    security,
    parameters: [...pathParameters(endpoint.path), ...(query ? queryParameters(sentAs(query)) : [])],
    ...(content ? { requestBody: { required: true, content } } : {}),
    responses: {
      [endpoint.answer.status]: answerOf(endpoint, answer),
      ...refusalsOf(endpoint),
      default: OTHER_REFUSAL,
    },
  };
}

/** A course’s own requests are open to its tokens as well as to anyone who is signed in. */
function securityOf(needs: AnyEndpoint['needs']): JsonSchema[] {
  if (needs === 'open') return [];
  if (needs === 'key') return [{ key: [] }];
  return CAPABILITIES.some((c) => c === needs) ? [{ session: [] }, { key: [] }] : [{ session: [] }];
}

/** What is called by a text in a path; everything else is called by a number. */
const TEXT_NAMES = new Set([
  'rule',
  'wording',
  'student',
  'item',
  'key',
  'kind',
  'address',
  'letter',
  'file',
  'export',
  'session',
]);

const pathParameters = (path: string): JsonSchema[] =>
  [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: TEXT_NAMES.has(name!) ? { type: 'string' } : { type: 'integer', minimum: 1 },
  }));

function queryParameters(schema: JsonSchema): JsonSchema[] {
  const { properties = {}, required = [] } = schema as { properties?: Record<string, JsonSchema>; required?: string[] };
  return Object.entries(properties).map(([name, of]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    schema: of,
  }));
}

/** A line of JSON, where it comes in lines, is a share of what is done, or at last the answer. */
function answerOf({ answer }: AnyEndpoint, of: JsonSchema): JsonSchema {
  const type = {
    json: 'application/json',
    lines: 'application/x-ndjson',
    columns: 'application/octet-stream',
    file: 'application/octet-stream',
    nothing: null,
  }[answer.form];
  const description = answer.form === 'nothing' ? 'Done' : 'The answer';
  return type === null
    ? { description }
    : { description, content: { [type]: { schema: answer.form === 'json' ? of : {} } } };
}

/** The statements resource of the Experience API, which answers as its own standard says. */
const statements = (operationId: string, summary: string, answer: string): JsonSchema => ({
  operationId,
  summary,
  tags: ['xapi'],
  'x-needs': 'key',
  security: [{ key: [] }, { basic: [] }],
  parameters: [
    ...pathParameters('{course}'),
    { name: 'X-Experience-API-Version', in: 'header', required: true, schema: { type: 'string' } },
  ],
  responses: { [answer]: { description: 'As the standard says' }, default: { description: 'Why not, as a sentence' } },
});
/** Resources that answer as their own standards say. */
const OTHERS: Readonly<Record<string, Record<string, JsonSchema>>> = {
  '/xapi/{course}/about': {
    get: {
      operationId: 'xapi.about',
      summary: 'Which versions are spoken',
      tags: ['xapi'],
      'x-needs': 'open',
      security: [],
      parameters: pathParameters('{course}'),
      responses: { 200: { description: 'The versions' } },
    },
  },
  '/xapi/{course}/statements': {
    get: statements('xapi.read', 'Statements, in pages', '200'),
    post: statements('xapi.send', 'Send statements', '200'),
    put: statements('xapi.put', 'Send one statement under its id', '204'),
  },
  '/caliper/{course}': {
    post: {
      operationId: 'caliper.send',
      summary: 'Send an envelope of Caliper events',
      tags: ['caliper'],
      'x-needs': 'key',
      security: [{ key: [] }],
      parameters: pathParameters('{course}'),
      responses: { 202: { description: 'It is taken' }, default: { description: 'Why not, as a sentence' } },
    },
  },
};

/** RFC 9457, with a problem a field. */
const problemOf = (codes: readonly string[]): JsonSchema => ({
  type: 'object',
  required: ['type', 'title', 'status', 'code', 'problems'],
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    code: { type: 'string', enum: codes },
    problems: {
      type: 'array',
      items: {
        type: 'object',
        properties: { path: { type: 'string' }, code: { type: 'string' }, message: { type: 'string' } },
      },
    },
  },
});

const refusal = (description: string): JsonSchema => ({
  description,
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/ProblemDetails' } } },
});

const OTHER_REFUSAL = refusal('Why not');

/** What the door refuses, by what a request asks for and needs; the code of the problem says which refusal it was. */
function refusalsOf({ needs, body, query, upload, method, path }: AnyEndpoint): JsonSchema {
  const changes = method !== 'GET';
  const isOfCourse = CAPABILITIES.some((c) => c === needs);
  return {
    ...(body || query || path.includes('{') ? { 400: refusal('The input does not fit: see its problems') } : {}),
    ...(needs === 'open' ? {} : { 401: refusal('Nobody is signed in, or the token is not known') }),
    ...(isOfCourse || needs === 'administrator' || changes ? { 403: refusal('You may not do this') } : {}),
    ...(path.includes('{') ? { 404: refusal('It does not exist, or you have no access to it') } : {}),
    ...(changes ? { 409: refusal('It does not fit what is stored now') } : {}),
    ...(body || upload ? { 413: refusal('More than is taken at once') } : {}),
    ...(needs === 'open' ? {} : { 429: refusal('Too many requests: Retry-After says how long to wait') }),
  };
}
