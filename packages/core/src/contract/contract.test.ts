import { describe, expect, test } from '@jest/globals';
import { CAPABILITIES } from '../access/capabilities.ts';
import { contract } from './contract.ts';
import { endpoints } from './endpoints.ts';
import { urlOf } from './endpoint.ts';
import { openApi } from './openapi.ts';

describe('the contract', () => {
  test('names each request once, by its method and its path', () => {
    const asked = endpoints.map(({ endpoint }) => `${endpoint.method} ${endpoint.path.replace(/\{\w+\}/g, '{}')}`);
    expect(asked.toSorted().filter((a, i, all) => a === all[i - 1])).toEqual([]);
  });

  test('asks for a capability on what is about a course, and nowhere else', () => {
    const isCapability = (needs: string) => (CAPABILITIES as readonly string[]).includes(needs);
    for (const { module, name, endpoint } of endpoints) {
      const isOfCourse = endpoint.path.startsWith('/courses/{course}');
      expect([`${module}.${name}`, isCapability(endpoint.needs)]).toEqual([`${module}.${name}`, isOfCourse]);
    }
  });

  test('fills a path with whatever an id says', () => {
    const path = { course: 3, student: 'ä/b?' };
    expect(urlOf(contract.desk.student, path)).toBe('/courses/3/students/%C3%A4%2Fb%3F');
    expect(urlOf(contract.mail.log, { course: 3 }, { rule: undefined, take: 20 })).toBe('/courses/3/log?take=20');
  });
});

test('an origin that may frame pages, or that the server calls, names one host', () => {
  const { frameOrigins } = contract.connections.addPlatform.body.shape;
  const fits = (origin: string) => frameOrigins.safeParse([origin]).success;
  expect(fits('https://platform.example.edu')).toBe(true);
  for (const wide of ['https://*', 'https://*.example.edu', '*', 'https://platform.example.edu/path'])
    expect([wide, fits(wide)]).toEqual([wide, false]);
});

const ANSWERS = { schemas: { TrayAnswer: {} }, answers: { 'mail.tray': { $ref: '#/components/schemas/TrayAnswer' } } };

// OpenAPI Specification 3.1.1, 4.8: typed from memory of the specification.
describe('as an OpenAPI document', () => {
  interface TestedSchema {
    readonly $ref?: string;
    readonly properties?: Readonly<Record<string, TestedSchema>>;
    readonly items?: TestedSchema;
    readonly enum?: readonly string[];
    readonly anyOf?: readonly TestedSchema[];
  }
  interface Operation {
    readonly operationId: string;
    readonly 'x-needs': string;
    readonly parameters: readonly {
      readonly name: string;
      readonly in: string;
      readonly required: boolean;
      readonly schema: object;
    }[];
    readonly requestBody?: { readonly content: Readonly<Record<string, { readonly schema: TestedSchema }>> };
    readonly responses: Readonly<Record<string, object>>;
  }
  const document = openApi('1.2.3', ANSWERS, ['notFound', 'diskFull']) as {
    readonly openapi: string;
    readonly info: object;
    readonly servers: readonly object[];
    readonly components: { readonly schemas: Readonly<Record<string, TestedSchema>> };
    readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  };
  const operations = Object.entries(document.paths).flatMap(([path, of]) =>
    Object.entries(of).map(([method, operation]) => ({ path, method, operation })),
  );

  test('has every request with what it needs, under a name of its own', () => {
    expect(document.openapi).toBe('3.1.1');
    expect(document.info).toMatchObject({
      title: 'Zest Bell',
      version: '1.2.3',
      license: { name: expect.any(String) },
    });
    expect(document.servers).toEqual([expect.objectContaining({ url: '/' })]);
    // And the resources of the Experience API and of Caliper, which are not of the contract.
    expect(operations).toHaveLength(endpoints.length + 5);
    expect(new Set(operations.map((o) => o.operation.operationId)).size).toBe(operations.length);
    expect(operations.every((o) => /^\/(api\/v1|xapi|caliper)\//.test(o.path) && o.operation['x-needs'] !== '')).toBe(
      true,
    );
  });

  test('declares each name of a path, bodies with their fields, and refusals as problem details', () => {
    for (const { path, operation } of operations) {
      const names = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => name);
      expect(operation.parameters.filter((p) => p.in === 'path').map((p) => p.name)).toEqual(names);
      if (path.startsWith('/api/')) expect(Object.keys(operation.responses['default']!)).toContain('content');
    }
    const ring = document.paths['/api/v1/courses/{course}/rules/{rule}/ring']!['post']!;
    expect(ring.requestBody?.content['application/json']?.schema).toMatchObject({
      type: 'object',
      properties: { confirmed: { type: 'boolean', default: false } },
      additionalProperties: false,
    });
    const tray = document.paths['/api/v1/courses/{course}/tray']!['get']!;
    expect(tray.responses['200']).toMatchObject({
      content: { 'application/json': { schema: { $ref: '#/components/schemas/TrayAnswer' } } },
    });
    const bring = document.paths['/api/v1/courses/{course}/imports']!['post']!;
    expect(Object.keys(bring.requestBody!.content)).toEqual(['application/octet-stream']);
    expect(bring.parameters.map((p) => [p.name, p.in, p.required])).toEqual([
      ['course', 'path', true],
      ['name', 'query', true],
    ]);
  });

  test('says what every field of a body is', () => {
    const untold: string[] = [];
    const look = (schema: TestedSchema, at: string) => {
      if (Object.keys(schema).length === 0) untold.push(at);
      for (const [name, of] of Object.entries(schema.properties ?? {})) look(of, `${at}.${name}`);
      if (schema.items) look(schema.items, `${at}[]`);
      for (const of of schema.anyOf ?? []) look(of, at);
    };
    for (const { operation } of operations)
      for (const { schema } of Object.values(operation.requestBody?.content ?? {})) look(schema, operation.operationId);
    for (const [name, schema] of Object.entries(document.components.schemas))
      if (name.endsWith('Document')) look(schema, name);
    expect(untold).toEqual([]);
    const activity = document.paths['/api/v1/activity']!['post']!.requestBody!.content['application/json']!.schema;
    expect(activity.properties!['events']!.items).toEqual({ $ref: '#/components/schemas/ActivityEventDocument' });
    // A condition holds conditions.
    expect(JSON.stringify(document.components.schemas['ConditionDocument'])).toContain(
      '"all":{"minItems":1,"type":"array","items":{"$ref":"#/components/schemas/ConditionDocument"}}',
    );
  });

  test('says which ids are numbers, what an operation may refuse, and the codes of problems', () => {
    const { parameters, responses } = document.paths['/api/v1/courses/{course}/rules/{rule}']!['put']!;
    expect(parameters.map((p) => [p.name, p.schema])).toEqual([
      ['course', { type: 'integer', minimum: 1 }],
      ['rule', { type: 'string' }],
    ]);
    expect(Object.keys(responses)).toEqual(['200', '400', '401', '403', '404', '409', '413', '429', 'default']);
    const open = document.paths['/api/v1/session']!['get']!;
    expect(Object.keys(open.responses)).toEqual(['200', 'default']);
    expect(document.components.schemas['ProblemDetails']!.properties!['code']!.enum).toEqual(['notFound', 'diskFull']);
  });
});
