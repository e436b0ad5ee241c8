/** The statements resource of the Experience API (xAPI 1.0.3 part 3, and 2.0), for one course with its key and secret. */
import { randomUUID } from 'node:crypto';
import { setImmediate as nextTurn } from 'node:timers/promises';
import { json, Router, type Request, type RequestHandler } from 'express';
import { z } from 'zod';
import { basicPasswordOf, bearerOf } from '../../access/tokens.ts';
import type { Em } from '../../platform/database/orm.ts';
import { rowsOf } from '../../platform/database/query.ts';
import type { IntakeServices } from '../services.ts';
import { StatementRow } from './entity.ts';
import { courseOf, noSuchResource, StatementRefused, refusals, withToken } from './entrance.ts';
import { actorKey, agentSchema, statementSchema, uuidSchema } from './schema.ts';
import { keepStatements, type ReceivedStatement } from './store.ts';
import { inCourse } from '../../course/lock.ts';

const VERSION = 'X-Experience-API-Version';
const MOST = 500;
const LARGEST_BATCH = 1000;
/** Of one statement, and of a page of them, in characters. */
const LONGEST_STATEMENT = 100_000;
const LONGEST_PAGE = 4 << 20;
/** Names or places within one another. */
const DEEPEST = 40;
/** Statements that are read before others get their turn. */
const A_TURN = 50;

/** The key under which a course's platform signs in. */
const keyOf = (course: number): string => `course-${course}`;

export function statementRoutes(services: IntakeServices): Router {
  const { orm, reading, live, clock } = services;
  const router = Router({ mergeParams: true });

  const answerVersion: RequestHandler = (req, res, next) => {
    const asked = req.get(VERSION);
    res.set(VERSION, asked?.startsWith('2.0') ? '2.0.0' : '1.0.3');
    next();
  };

  const signedIn = withToken(services, {
    // Whatever name comes before the secret: the token says what it opens.
    secretOf: (req) => basicPasswordOf(req) ?? bearerOf(req),
    challenge: 'Basic realm="Zest Bell statements"',
  });

  const versioned: RequestHandler = (req, _res, next) => {
    const version = req.get(VERSION);
    if (version === undefined || !/^(1\.0(\.\d+)?|2\.0(\.\d+)?)$/.test(version))
      throw new StatementRefused(400, `Send the header ${VERSION} with 1.0.3 or 2.0.0.`);
    next();
  };

  router.use(answerVersion);
  router.get('/about', (_req, res) => {
    res.json({ version: ['2.0.0', '1.0.3', '1.0.2', '1.0.1', '1.0.0'] });
  });
  router.use(signedIn, versioned);

  const store = async (course: number, sent: readonly ReceivedStatement[], req: Request): Promise<void> => {
    const now = clock.now();
    const authority = {
      objectType: 'Agent',
      account: { homePage: `${req.protocol}://${req.get('host') ?? 'localhost'}`, name: keyOf(course) },
    };
    await inCourse(orm, course, async (em) => keepStatements(em, await live.get(em, course), sent, now, authority));
  };

  const body = json({ limit: '8mb', strict: false });

  router.put('/statements', body, async (req, res) => {
    onlyParameters(req, ['statementId']);
    const id = uuidSchema.safeParse(req.query['statementId']);
    if (!id.success) throw new StatementRefused(400, 'Name the statement with statementId, a UUID.');
    const statement = read(req.body);
    if (statement.id !== undefined && statement.id.toLowerCase() !== id.data.toLowerCase())
      throw new StatementRefused(400, 'The statement has another id than statementId.');
    await store(courseOf(res), [{ id: id.data.toLowerCase(), statement }], req);
    res.status(204).end();
  });

  router.post('/statements', body, async (req, res) => {
    onlyParameters(req, []);
    const list: unknown[] = Array.isArray(req.body) ? (req.body as unknown[]) : [req.body];
    if (list.length > LARGEST_BATCH)
      throw new StatementRefused(413, `Send at most ${LARGEST_BATCH} statements at once.`);
    const sent: ReceivedStatement[] = [];
    for (const [i, draft] of list.entries()) {
      if (i % A_TURN === A_TURN - 1) await nextTurn();
      const statement = read(draft, list.length > 1 ? `Statement ${i + 1}: ` : '');
      sent.push({ id: statement.id?.toLowerCase() ?? randomUUID(), statement });
    }
    if (new Set(sent.map((s) => s.id)).size < sent.length)
      throw new StatementRefused(400, 'Two statements have the same id.');
    await store(courseOf(res), sent, req);
    res.json(sent.map((s) => s.id));
  });

  router.get('/statements', async (req, res) => {
    const course = courseOf(res);
    const em = reading.em.fork();
    res.set('X-Experience-API-Consistent-Through', new Date(clock.now()).toISOString());
    const one = req.query['statementId'] ?? req.query['voidedStatementId'];
    if (one !== undefined) {
      const voided = req.query['voidedStatementId'] !== undefined;
      onlyParameters(req, [voided ? 'voidedStatementId' : 'statementId', 'format', 'attachments']);
      const id = uuidSchema.safeParse(one);
      if (!id.success) throw new StatementRefused(400, 'A statement’s id is a UUID.');
      const row = await em.findOne(StatementRow, {
        course,
        standard: 'xapi',
        statement: id.data.toLowerCase(),
        voided,
      });
      if (!row) throw new StatementRefused(404, 'There is no such statement.');
      res.set('Last-Modified', new Date(row.storedAt).toUTCString());
      return void res.type('json').send(row.json);
    }
    onlyParameters(req, [...FILTERS, 'after']);
    const query = queryOf(req);
    const order = query.ascending ? ('asc' as const) : ('desc' as const);
    const rows = await em.find(
      StatementRow,
      {
        course,
        standard: 'xapi',
        voided: false,
        ...(query.agent === undefined ? {} : { actor: query.agent }),
        ...(query.verb === undefined ? {} : { verb: query.verb }),
        ...(query.activity === undefined ? {} : { activity: query.activity }),
        ...(query.registration === undefined ? {} : { registration: query.registration }),
        // Stored after since, and at or before until (part 3, 2.1.3).
        storedAt: { $gt: query.since ?? -1, $lte: query.until ?? Number.MAX_SAFE_INTEGER },
        ...(query.after === undefined ? {} : { id: query.ascending ? { $gt: query.after } : { $lt: query.after } }),
      },
      { orderBy: { id: order }, limit: query.limit + 1, fields: ['id'] },
    );
    const page = await pageOf(
      em,
      rows.slice(0, query.limit).map((r) => r.id),
    );
    const last = page.at(-1);
    if (page.length > 0) res.set('Last-Modified', new Date(Math.max(...page.map((r) => r.storedAt))).toUTCString());
    res
      .type('json')
      .send(
        `{"statements":[${page.map((r) => r.json).join(',')}],"more":${JSON.stringify(rows.length > page.length && last ? moreOf(req, course, last.id) : '')}}`,
      );
  });

  router.use(noSuchResource, refusals(services));
  return router;
}

/** The first of these statements that fit on a page, one at least. */
async function pageOf(em: Em, ids: readonly number[]) {
  const sizes = em.getKnex()('statement').select('id').select(em.getKnex().raw('length(json) as size'));
  const sizeOf = new Map<number, number>();
  for (const { id, size } of await rowsOf<{ id: number; size: number }>(em, sizes.whereIn('id', ids)))
    sizeOf.set(id, size);
  const page: number[] = [];
  let sum = 0;
  for (const id of ids) {
    sum += sizeOf.get(id) ?? 0;
    if (page.length > 0 && sum > LONGEST_PAGE) break;
    page.push(id);
  }
  const found = await em.find(
    StatementRow,
    { id: { $in: page } },
    { fields: ['json', 'storedAt'], disableIdentityMap: true },
  );
  const byId = new Map(found.map((row) => [row.id, row]));
  return page.flatMap((id) => byId.get(id) ?? []);
}

/** Throws for a statement that does not fit, with the path of the first problem. */
function read(draft: unknown, before = '') {
  const where = nullIn(draft, []);
  if (where !== null) throw new StatementRefused(400, `${before}${where} is null, which only extensions may be.`);
  if (JSON.stringify(draft).length > LONGEST_STATEMENT)
    throw new StatementRefused(413, `${before}A statement has at most ${LONGEST_STATEMENT / 1000} KB.`);
  const parsed = statementSchema.safeParse(draft);
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new StatementRefused(
    400,
    `${before}${issue?.path.join('.') || 'The statement'}: ${issue?.message ?? 'does not fit'}.`,
  );
}

/** The path of a null where none is allowed. Throws for endless nesting, in extensions too. */
function nullIn(value: unknown, path: readonly string[], isFree = false): string | null {
  if (path.length > DEEPEST) throw new StatementRefused(400, `${path[0]} is nested more than ${DEEPEST} deep.`);
  if (value === null) return isFree ? null : path.join('.') || 'The statement';
  if (typeof value !== 'object') return null;
  for (const [key, part] of Object.entries(value)) {
    const found = nullIn(part, [...path, key], isFree || key === 'extensions');
    if (found !== null) return found;
  }
  return null;
}

const FILTERS = [
  'agent',
  'verb',
  'activity',
  'registration',
  'related_activities',
  'related_agents',
  'since',
  'until',
  'limit',
  'format',
  'attachments',
  'ascending',
];

function onlyParameters(req: Request, known: readonly string[]): void {
  const other = Object.keys(req.query).find((name) => !known.includes(name));
  if (other !== undefined) throw new StatementRefused(400, `The parameter ${other} is not known here.`);
}

const text = z.string();
const boolean = z.enum(['true', 'false']);
const filterSchema = z.object({
  agent: text.optional(),
  verb: text.optional(),
  activity: text.optional(),
  registration: uuidSchema.optional(),
  related_activities: boolean.optional(),
  related_agents: boolean.optional(),
  since: z.iso.datetime({ offset: true, local: true }).optional(),
  until: z.iso.datetime({ offset: true, local: true }).optional(),
  limit: z.coerce.number().int().nonnegative().default(0),
  format: z.enum(['ids', 'exact', 'canonical']).optional(),
  attachments: boolean.optional(),
  ascending: boolean.default('false'),
  after: z.coerce.number().int().optional(),
});

function queryOf(req: Request) {
  const parsed = filterSchema.safeParse(req.query);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new StatementRefused(400, `${issue?.path.join('.') ?? 'A parameter'}: ${issue?.message ?? 'does not fit'}.`);
  }
  const { agent, since, until, limit, ascending, registration, ...rest } = parsed.data;
  return {
    ...rest,
    registration: registration?.toLowerCase(),
    agent: agent === undefined ? undefined : agentKeyOf(agent),
    since: since === undefined ? undefined : Date.parse(since),
    until: until === undefined ? undefined : Date.parse(until),
    // Nought asks for as many as the server gives.
    limit: limit === 0 ? MOST : Math.min(limit, MOST),
    ascending: ascending === 'true',
  };
}

function agentKeyOf(written: string): string {
  try {
    const agent = agentSchema.safeParse(JSON.parse(written));
    if (agent.success) return actorKey(agent.data);
  } catch {
    // The same answer as for one that is JSON and no agent.
  }
  throw new StatementRefused(400, 'agent: Write an agent as JSON with one identifier.');
}

/** The rest of a list, relative to this server (part 3, 2.1.4). */
function moreOf(req: Request, course: number, after: number): string {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(req.query))
    if (typeof value === 'string' && name !== 'after') query.set(name, value);
  query.set('after', String(after));
  return `/xapi/${course}/statements?${query.toString()}`;
}
