/**
 * Replays of a term, done in a thread of their own: rounds, mail and every other request go on as if nobody asked. The
 * thread starts with the first replay, keeps the courses that it was told, and ends when nobody has asked for a while. One
 * that fails, as for want of memory, fails the replays that were waiting and nothing else; the next one starts it anew.
 */
import type { Worker } from 'node:worker_threads';
import type { Response } from 'express';
import { toColumns } from '@zest-bell/core/activity';
import type { HistoryFacts } from '@zest-bell/core/measures';
import { AppError } from '../../platform/errors/errors.ts';
import { lineWriter } from '../../platform/http/http.ts';
import type { LongWork } from '../../platform/work/longWork.ts';
import { startThread } from '../../platform/process/startThread.ts';
import type { ThreadAnswer, KnownCourse, ThreadRequest } from './messages.ts';
import type { OrderOf, WorkName } from './works.ts';

/** How long a thread that nobody asks is kept, in ms. */
const IDLE = 10 * 60_000;
/** The most memory that it takes for what it computes, in MB. */
const MEMORY = 2048;
/** Room for what is new, in MB: most of what a replay lays out is gone before it is full, and need never be copied. */
const ROOM = 96;
/** Between two words about how far it is, in ms. */
const BETWEEN = 100;

/** What is heard of one replay while it goes on; results are JSON. */
interface Listener {
  readonly onShare?: (share: number) => void;
  readonly onFound?: (found: string) => void;
}

interface WaitingWork extends Listener {
  readonly facts: HistoryFacts;
  readonly done: (answer: string) => void;
  readonly failed: (error: Error) => void;
}

export class ReplayThread {
  private readonly longWork: LongWork;
  private readonly idle: number;
  private readonly memory: number;
  private readonly between: number;
  private thread: Worker | null = null;
  private readonly waiting = new Map<number, WaitingWork>();
  private ids = 0;
  private going: NodeJS.Timeout | null = null;
  /** Facts of a course by a number of their own: other facts, as after a change of its roster, are another state. */
  private readonly numbers = new WeakMap<HistoryFacts, number>();
  private factsSeen = 0;

  constructor(longWork: LongWork, { idle = IDLE, memory = MEMORY, between = BETWEEN } = {}) {
    this.longWork = longWork;
    this.idle = idle;
    this.memory = memory;
    this.between = between;
  }

  /** The answer of a replay as JSON, for anyone who makes something else of it. Throws `tooMuchAtOnce`, and `busy` once nobody waits. */
  result<Name extends WorkName>(
    person: number,
    res: Response,
    name: Name,
    facts: HistoryFacts,
    order: OrderOf<Name>,
  ): Promise<string> {
    return this.longWork.runAside(person, res, (signal) => this.run(name, facts, order, signal));
  }

  /** Sends the answer of a replay for the account `person`. Throws `tooMuchAtOnce`, and `busy` once nobody waits any more. */
  async answer<Name extends WorkName>(
    person: number,
    res: Response,
    name: Name,
    facts: HistoryFacts,
    order: OrderOf<Name>,
  ): Promise<void> {
    res.type('json').send(await this.result(person, res, name, facts, order));
  }

  /**
   * The same, told in lines while it goes on: `{ share }` now and then, results as they come, and `{ answer }` at last.
   */
  async tell<Name extends WorkName>(
    person: number,
    res: Response,
    name: Name,
    facts: HistoryFacts,
    order: OrderOf<Name>,
  ): Promise<void> {
    const write = lineWriter(res);
    let last = performance.now();
    const onShare = (share: number) => {
      if (performance.now() - last < this.between) return;
      last = performance.now();
      write(JSON.stringify({ share }));
    };
    const answer = await this.longWork.runAside(person, res, (signal) =>
      this.run(name, facts, order, signal, { onShare, onFound: write }),
    );
    write(`{"answer":${answer}}`);
    res.end();
  }

  /** The result of a replay as JSON. Throws what it throws, and `busy` once `signal` says that nobody waits. */
  async run<Name extends WorkName>(
    name: Name,
    facts: HistoryFacts,
    order: OrderOf<Name>,
    signal: AbortSignal = NOBODY_LEAVES,
    listener: Listener = {},
  ): Promise<string> {
    const id = ++this.ids;
    const thread = this.started();
    const stop = () => this.send(thread, { id, stop: true });
    signal.addEventListener('abort', stop);
    try {
      return await new Promise<string>((done, failed) => {
        this.waiting.set(id, { ...listener, facts, done, failed });
        this.send(thread, { id, name, order, facts: this.numberOf(facts), version: facts.history.version });
      });
    } finally {
      signal.removeEventListener('abort', stop);
      this.waiting.delete(id);
      if (this.waiting.size === 0) this.going = setTimeout(() => void this.close(), this.idle).unref();
    }
  }

  get isThere(): boolean {
    return this.thread !== null;
  }

  /** Ends the thread; what waits for it fails as `busy`. */
  async close(): Promise<void> {
    const { thread } = this;
    this.lose(new AppError('busy'));
    await thread?.terminate();
  }

  private started(): Worker {
    if (this.going) clearTimeout(this.going);
    if (this.thread) return this.thread;
    const thread = startThread(import.meta.url, 'thread', {
      maxOldGenerationSizeMb: this.memory,
      maxYoungGenerationSizeMb: ROOM,
    });
    // A server that is told to end does not wait for it.
    thread.unref();
    thread.on('message', (message: ThreadAnswer) => this.hear(thread, message));
    const onEnd = (error: Error) => {
      if (this.thread === thread) this.lose(error);
    };
    thread.on('error', onEnd);
    thread.on('exit', (code) => onEnd(new Error(`the thread for replays ended with ${code}`)));
    return (this.thread = thread);
  }

  private lose(error: Error): void {
    this.thread = null;
    for (const { failed } of [...this.waiting.values()]) failed(error);
  }

  private hear(thread: Worker, message: ThreadAnswer): void {
    const asker = this.waiting.get(message.id);
    if (!asker) return;
    if ('lacking' in message) {
      const known = knownOf(asker.facts);
      const { counts, times, codes } = known.columns;
      this.send(thread, { id: message.id, known }, [counts.buffer, times.buffer, codes.buffer] as ArrayBuffer[]);
    } else if ('share' in message) asker.onShare?.(message.share);
    else if ('found' in message) asker.onFound?.(message.found);
    else if ('answer' in message) asker.done(message.answer);
    else if ('refused' in message) asker.failed(new AppError(message.refused.code, message.refused.problems));
    else asker.failed(new Error(message.fault));
  }

  private send(thread: Worker, message: ThreadRequest, moved: ArrayBuffer[] = []): void {
    thread.postMessage(message, moved);
  }

  private numberOf(facts: HistoryFacts): number {
    let number = this.numbers.get(facts);
    if (number === undefined) this.numbers.set(facts, (number = ++this.factsSeen));
    return number;
  }
}

const NOBODY_LEAVES = new AbortController().signal;

/** Copied, so that they can be handed over whole. */
function knownOf({ course, history }: HistoryFacts): KnownCourse {
  const { calendar: _calendar, personIndex: _people, itemIndex: _items, ...parts } = course;
  return { parts, columns: toColumns(history) };
}
