/** Tells the server what students did over its own interface, as a script of an institution would. */
import { formatInstant, type Instant } from '@zest-bell/core/time';
import type { IngestAnswer } from '@zest-bell/core/exchange';
import type { Activity } from './simulator.ts';

const MOST = 5000;

export interface OwnInterface {
  /** The server's address. */
  readonly base: string;
  /** A bearer token of the course. */
  readonly token: string;
  readonly timeZone: string;
}

/** Throws for what the server refuses. */
export async function sendToOwnInterface(to: OwnInterface, { events, grades }: Activity): Promise<void> {
  const written = <T extends { at: Instant }>(rows: readonly T[]) =>
    rows.map((r) => ({ ...r, at: formatInstant(r.at, to.timeZone) }));
  // Nothing at all still says that the platform is there.
  for (let i = 0; i === 0 || i < events.length; i += MOST)
    await post(to, { events: written(events.slice(i, i + MOST)), grades: i === 0 ? written(grades) : [] });
}

async function post({ base, token }: OwnInterface, body: { events: object[]; grades: object[] }): Promise<void> {
  const res = await fetch(`${base}/api/v1/activity`, {
    method: 'POST',
    headers: { authorization: `Bearer ${token}`, 'content-type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (!res.ok) {
    const said = await res.text();
    // An archived course is told no more.
    if (said.includes('"courseArchived"')) return;
    throw new Error(`The server refused the campus’s activity: ${res.status} ${said}`);
  }
  const answer = (await res.json()) as IngestAnswer;
  if (answer.refused.length > 0) throw new Error(`The server refused rows: ${JSON.stringify(answer.refused[0])}`);
}
