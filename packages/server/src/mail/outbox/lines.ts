/**
 * Which of the messages that wait gets the next line to the mail server. No course and no recipient domain ever holds all lines, and
 * those that have been slow lately do not hold all of them together: one line is kept for messages to quick courses and domains.
 */
import { CONNECTIONS } from '../../platform/mail/mail.ts';
import type { Pace } from './pace.ts';

/** Lines that one course, one domain, or all slow ones together may hold. */
const MOST_HELD = CONNECTIONS - 1;

export interface Passenger {
  readonly course: number;
  /** The recipient's, as `domainOf` says it. */
  readonly domain: string;
}

interface WaitingPassenger {
  readonly passenger: Passenger;
  /** Whether it has a line, or is to have none. */
  readonly told: (has: boolean) => void;
}

/** The domain of an address, in lower case. */
export const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1).toLowerCase();

export class ServerLines {
  private readonly pace: Pace;
  private readonly busy = new Set<Passenger>();
  private waiting: WaitingPassenger[] = [];

  constructor(pace: Pace) {
    this.pace = pace;
  }

  /** Does the work once it has a line; null where `clear` came before that. */
  async run<T>({ course, domain }: Passenger, work: () => Promise<T>): Promise<T | null> {
    const passenger = { course, domain };
    const has = await new Promise<boolean>((told) => {
      this.waiting.push({ passenger, told });
      this.next();
    });
    if (!has) return null;
    try {
      return await work();
    } finally {
      this.busy.delete(passenger);
      this.next();
    }
  }

  /** Nobody who waits gets a line any more. */
  clear(): void {
    const all = this.waiting;
    this.waiting = [];
    for (const { told } of all) told(false);
  }

  /** Whether there is a line for somebody else than those who wait. */
  get hasRoom(): boolean {
    return this.busy.size < CONNECTIONS;
  }

  /** Slow domains to which nothing more can leave now: what goes there is better left in the queue. */
  get crowded(): readonly string[] {
    const all = [...this.busy, ...this.waiting.map((w) => w.passenger)];
    const slow = new Set(all.flatMap(({ domain }) => (this.pace.isSlowDomain(domain) ? [domain] : [])));
    return [...slow].filter((domain) => all.filter((p) => p.domain === domain).length >= MOST_HELD);
  }

  private next(): void {
    for (;;) {
      const first = this.waiting.find((w) => this.mayGo(w.passenger));
      if (!first) return;
      this.waiting = this.waiting.filter((w) => w !== first);
      this.busy.add(first.passenger);
      first.told(true);
    }
  }

  private mayGo({ course, domain }: Passenger): boolean {
    const busy = [...this.busy];
    if (busy.length >= CONNECTIONS) return false;
    const held = (fits: (p: Passenger) => boolean) => busy.filter(fits).length;
    if (held((p) => p.course === course) >= MOST_HELD || held((p) => p.domain === domain) >= MOST_HELD) return false;
    const isSlow = (p: Passenger) => this.pace.isSlowCourse(p.course) || this.pace.isSlowDomain(p.domain);
    return !isSlow({ course, domain }) || held(isSlow) < MOST_HELD;
  }
}
