/** The contract as an OpenAPI document (OpenAPI Specification 3.1.1). */
import { z } from 'zod';
import { CAPABILITIES } from '../access/capabilities.ts';
import { endpoints } from './contract.ts';
import type { AnyEndpoint } from './endpoint.ts';

/** Everything is served below it. */
export const API_BASE = '/api/v1';

type Json = Readonly<Record<string, unknown>>;

/** What requests answer, as JSON Schema: by module and name, and the types of their own that these refer to. */
export interface Answers {
  readonly schemas: Json;
  readonly answers: Readonly<Record<string, Json>>;
}

/** `version` is the application's. */
export function openApi(version: string, { schemas, answers }: Answers): Json {
  const paths: Record<string, Record<string, Json>> = {};
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
    info: { title: 'Zest Bell', version },
    paths,
    components: {
      schemas: { ...schemas, ProblemDetails: PROBLEM },
      securitySchemes: {
        session: { type: 'apiKey', in: 'cookie', name: 'zest-bell' },
        key: { type: 'http', scheme: 'bearer' },
        basic: { type: 'http', scheme: 'basic' },
      },
    },
  };
}

function operationOf(operationId: string, module: string, endpoint: AnyEndpoint, answer: Json): Json {
  const { needs, says, body, query, upload } = endpoint;
  const security = securityOf(needs);
  const content = upload
    ? { 'application/octet-stream': { schema: {} } }
    : body && { 'application/json': { schema: schemaOf(body) } };
  return {
    operationId,
    summary: says,
    tags: [module],
    'x-needs': needs,
    security,
    parameters: [...pathParameters(endpoint.path), ...(query ? queryParameters(schemaOf(query)) : [])],
    ...(content ? { requestBody: { required: true, content } } : {}),
    responses: { [endpoint.answer.status]: answerOf(endpoint, answer), default: REFUSAL },
  };
}

/** A course’s own requests are open to its tokens as well as to whoever is signed in. */
function securityOf(needs: AnyEndpoint['needs']): Json[] {
  if (needs === 'open') return [];
  if (needs === 'key') return [{ key: [] }];
  return CAPABILITIES.some((c) => c === needs) ? [{ session: [] }, { key: [] }] : [{ session: [] }];
}

const schemaOf = (schema: z.ZodType): Json =>
  z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any', target: 'draft-2020-12' });

const pathParameters = (path: string): Json[] =>
  [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    ...{ name, in: 'path', required: true },
    schema: { type: 'string' },
  }));

function queryParameters(schema: Json): Json[] {
  const { properties = {}, required = [] } = schema as { properties?: Record<string, Json>; required?: string[] };
  return Object.entries(properties).map(([name, of]) => ({
    ...{ name, in: 'query', required: required.includes(name), schema: of },
  }));
}

/** A line of JSON, where it comes in lines, is a share of what is done, or at last the answer. */
function answerOf({ answer }: AnyEndpoint, of: Json): Json {
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
const statements = (operationId: string, summary: string, answer: string): Json => ({
  ...{ operationId, summary, tags: ['xapi'], 'x-needs': 'key', security: [{ key: [] }, { basic: [] }] },
  parameters: [
    ...pathParameters('{course}'),
    { name: 'X-Experience-API-Version', in: 'header', required: true, schema: { type: 'string' } },
  ],
  responses: { [answer]: { description: 'As the standard says' }, default: { description: 'Why not, as a sentence' } },
});
/** Resources that answer as their own standards say. */
const OTHERS: Readonly<Record<string, Record<string, Json>>> = {
  '/xapi/{course}/about': {
    get: {
      ...{ operationId: 'xapi.about', summary: 'Which versions are spoken', tags: ['xapi'] },
      ...{ 'x-needs': 'open', security: [], parameters: pathParameters('{course}') },
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
      ...{ operationId: 'caliper.send', summary: 'Send an envelope of Caliper events', tags: ['caliper'] },
      ...{ 'x-needs': 'key', security: [{ key: [] }], parameters: pathParameters('{course}') },
      responses: { 202: { description: 'It is taken' }, default: { description: 'Why not, as a sentence' } },
    },
  },
};

/** RFC 9457, with a problem a field. */
const PROBLEM: Json = {
  type: 'object',
  required: ['type', 'title', 'status', 'code', 'problems'],
  properties: {
    type: { type: 'string' },
    title: { type: 'string' },
    status: { type: 'integer' },
    code: { type: 'string' },
    problems: {
      type: 'array',
      items: {
        type: 'object',
        properties: { path: { type: 'string' }, code: { type: 'string' }, message: { type: 'string' } },
      },
    },
  },
};

const REFUSAL: Json = {
  description: 'Why not',
  content: { 'application/problem+json': { schema: { $ref: '#/components/schemas/ProblemDetails' } } },
};
