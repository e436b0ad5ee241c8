/** The thread in which replays run: it knows courses as they are told to it, and nothing of the database, the clock or mail. */
import { parentPort } from 'node:worker_threads';
import { LRUCache } from 'lru-cache';
import type { WorkInParts } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import { fromColumns } from '@zest-bell/core/activity';
import { HistoryFacts } from '@zest-bell/core/measures';
import { AppError } from '../../platform/errors/errors.ts';
import { inTurns } from '../../platform/turns/inTurns.ts';
import type { ThreadAnswer, KnownCourse, ThreadRequest } from './messages.ts';
import { WORKS, type OnPartialResult } from './works.ts';

/** Courses that are kept with what was computed from them, as somebody who tries one number tries others. */
const MOST_COURSES = 2;

const courses = new LRUCache<number, { readonly version: number; readonly facts: HistoryFacts }>({ max: MOST_COURSES });
const stopped = new Set<number>();
const askedFor = new Map<number, (known: KnownCourse) => void>();

const say = (message: ThreadAnswer): void => parentPort!.postMessage(message);

parentPort!.on('message', (message: ThreadRequest) => {
  if ('stop' in message) stopped.add(message.id);
  else if ('known' in message) askedFor.get(message.id)?.(message.known);
  else void work(message);
});

async function work({ id, name, order, ...state }: Extract<ThreadRequest, { name: unknown }>): Promise<void> {
  try {
    const facts = await factsFor(id, state);
    const tell: OnPartialResult = (found) => say({ id, found: JSON.stringify(found) });
    // The types of `run` on the other side hold a work and its order together.
    const parts = (): WorkInParts<object> => WORKS[name](facts, order as never, tell);
    const answer = await inTurns(
      parts,
      () => stopped.has(id),
      (share) => say({ id, share }),
    );
    say({ id, answer: JSON.stringify(answer) });
  } catch (error) {
    if (error instanceof AppError) say({ id, refused: { code: error.code, problems: error.problems } });
    else say({ id, fault: error instanceof Error ? (error.stack ?? error.message) : String(error) });
  } finally {
    stopped.delete(id);
  }
}

/** A course is kept as it was told last. */
async function factsFor(id: number, { facts: number, version }: { facts: number; version: number }) {
  const kept = courses.get(number);
  if (kept?.version === version) return kept.facts;
  courses.delete(number);
  const facts = factsOf(await asked(id));
  courses.set(number, { version, facts });
  return facts;
}

async function asked(id: number): Promise<KnownCourse> {
  say({ id, lacking: true });
  const known = await new Promise<KnownCourse>((told) => askedFor.set(id, told));
  askedFor.delete(id);
  return known;
}

const factsOf = ({ parts, columns }: KnownCourse): HistoryFacts =>
  new HistoryFacts(makeCourse(parts), fromColumns(columns));
