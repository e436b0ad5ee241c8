/**
 * A computation of which only the newest question counts. While it runs, the newest question waits, and takes the place of one that
 * waited before: anyone who drags a threshold never piles up work.
 */
export interface LatestWins<Q> {
  ask(question: Q): void;
  /** Asks nothing more. What runs still ends, and its answer is not told. */
  stop(): void;
}

/** `answered` is told of each answer, `failed` of each failure; after either the question that waits is computed. */
export function latestWins<Q, A>(
  compute: (question: Q) => Promise<A>,
  told: { readonly answered: (answer: A, question: Q) => void; readonly failed: (error: unknown, question: Q) => void },
): LatestWins<Q> {
  let running = false;
  let stopped = false;
  let waiting: { readonly question: Q } | null = null;

  async function run(question: Q): Promise<void> {
    running = true;
    try {
      const answer = await compute(question);
      if (!stopped) told.answered(answer, question);
    } catch (error) {
      if (!stopped) told.failed(error, question);
    } finally {
      running = false;
    }
    const next = waiting;
    waiting = null;
    if (next && !stopped) void run(next.question);
  }

  return {
    ask(question) {
      if (stopped) return;
      if (running) waiting = { question };
      else void run(question);
    },
    stop() {
      stopped = true;
      waiting = null;
    },
  };
}
