/** What goes out: files made in the background, rules as a file, and the calendar’s address. */
import { createReadStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { Router } from 'express';
import { contract, SENT } from '@zest-bell/core/contract';
import { fileNameOf, rulesFileOf } from '@zest-bell/core/exports';
import type { Door } from '../../access/door.ts';
import type { LiveCourse } from '../../course/activity/live.ts';
import { inCourse } from '../../course/lock.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRules, ruleNames } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { findFile } from '../../wording/files/repository.ts';
import { compiledOf, wordingOfRow } from '../../wording/repository.ts';
import { FeedRow, feedHolds } from './entity.ts';
import { feedText } from './feed.ts';
import { ExportJobs } from './jobs.ts';
import { makeFile, nameOf } from './making.ts';
import { hashOf, newSecret } from '../../access/passwords.ts';
import { insertRow, removeRows } from '../../platform/database/writing.ts';

export function exportRoutes(door: Door, services: IntakeServices): void {
  const { orm, reading, live, clock } = services;
  const jobs = new ExportJobs(services);

  door.on(contract.exports.start, async ({ course, account, body: order }) => {
    const known = await live.get(reading.em.fork(), course);
    const name = nameOf(order, known.course.code);
    return jobs.start({ account, course, name }, async (to) => {
      const em = reading.em.fork();
      const log = { id: course, course: known.course, rules: await ruleNames(em, course) };
      await makeFile(em, { live: known, log, now: clock.now() }, order, to);
    });
  });

  door.on(contract.exports.state, ({ course, account, path }) => jobs.state({ account, course }, path.export));

  door.on(contract.exports.file, async ({ course, account, path, res }) => {
    const { path: file, name } = await jobs.file({ account, course }, path.export);
    // Bytes as they are: what is in it is nothing that a browser may run.
    res.attachment(name).type('application/octet-stream');
    // Who goes away in the middle is no trouble.
    await pipeline(createReadStream(file), res).catch(() => undefined);
    return SENT;
  });

  door.on(contract.exports.stop, ({ course, account, path }) => jobs.stop({ account, course }, path.export));

  door.on(contract.exports.rules, async ({ course, body: { rules }, res }) => {
    const em = reading.em.fork();
    const known = await live.get(em, course);
    const file = await decidedFile(em, known, rules);
    res.attachment(`${fileNameOf(`${known.course.code} rules`)}.json`).type('application/json');
    res.send(JSON.stringify(file, null, 1));
    return SENT;
  });

  door.on(contract.exports.feed, async ({ course }) => {
    const row = await reading.em.fork().findOne(FeedRow, { course }, { disableIdentityMap: true });
    return { since: row?.madeAt ?? null };
  });

  door.on(contract.exports.newFeed, async ({ course, actor: madeBy }) => {
    const token = newSecret();
    await inCourse(orm, course, async (tx) => {
      await removeRows(tx, feedHolds, { course });
      await insertRow(tx, feedHolds, { course, tokenHash: hashOf(token), madeAt: clock.now(), madeBy });
    });
    return { path: `/calendar/${token}.ics` };
  });

  door.on(contract.exports.endFeed, async ({ course }) => {
    await inCourse(orm, course, (tx) => removeRows(tx, feedHolds, { course }));
  });
}

/** The rules with the wordings that they send and their files. */
async function decidedFile(em: Em, { id: course, course: known }: LiveCourse, wanted: readonly string[] | null) {
  const rows = await em.find(RuleRow, { course, archivedAt: null }, { orderBy: { position: 'asc' } });
  const rules = readableRules(rows).filter((r) => wanted?.includes(r.id) ?? true);
  const used = new Set(rules.flatMap((r) => r.steps.map((s) => s.wording)));
  const all = await em.find(WordingRow, { course }, { orderBy: { id: 'asc' } });
  const wordings = all.map(wordingOfRow).filter((w) => (wanted === null ? true : used.has(w.id)));
  const keys = wordings.flatMap((w) => {
    const compiled = compiledOf(w);
    return [...(w.files ?? []).map((f) => f.id), ...(compiled.ok ? compiled.value.pictures : [])];
  });
  const files = [];
  for (const key of new Set(keys)) {
    const file = await findFile(em, course, key);
    if (file) files.push({ id: key, name: file.name, type: file.type, bytes: file.bytes.toString('base64') });
  }
  return rulesFileOf({ course: known, rules, wordings, files });
}

/** The calendar behind its secret address: no sign-in, and nothing else behind it. */
export function calendarFeeds({ orm, reading, live, clock }: IntakeServices): Router {
  const router = Router();
  router.get('/calendar/:token', async (req, res) => {
    const [, token] = /^([\w-]{32})\.ics$/.exec(req.params.token) ?? [];
    const em = reading.em.fork();
    const row = token === undefined ? null : await em.findOne(FeedRow, { tokenHash: hashOf(token) });
    if (!row) throw new AppError('notFound');
    const text = await feedText(orm, em, await live.get(em, row.course), clock.now());
    // A calendar program asks again and again: who has it is told so.
    res.set({ 'cache-control': 'private, no-cache', 'x-robots-tag': 'noindex' });
    res.type('text/calendar; charset=utf-8').send(text);
  });
  return router;
}
