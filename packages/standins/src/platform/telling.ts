/**
 * Sends what happened to the tool: Caliper and xAPI, with a token of the course. What breaks off or is refused on its way is sent again
 * whole, as a platform's queue does; what it tells twice has the same ids.
 */
import type { Fault } from './faults.ts';
import { envelopeOf, messagesOf, type Places } from './messages.ts';
import type { Activity } from '../campus/simulator.ts';

/** Of one envelope, and of one batch of statements. */
const MOST = 1000;

export interface Line {
  /** Where the course takes Caliper and xAPI. */
  readonly caliper: string;
  readonly xapi: string;
  readonly token: string;
  readonly places: Places;
  readonly faults: ReadonlySet<Fault>;
}

/** Throws for what the tool refuses although it came whole. `now`: by the campus's clock. */
export async function tellByStandards(line: Line, activity: Activity, now: number): Promise<void> {
  const { events, statements } = messagesOf(activity, line.places);
  // An envelope without events still says that the platform is there.
  for (let i = 0; i === 0 || i < events.length; i += MOST)
    await send(line, line.caliper, envelopeOf(events.slice(i, i + MOST), line.places, now));
  for (let i = 0; i < statements.length; i += MOST) await send(line, line.xapi, statements.slice(i, i + MOST));
}

async function send({ token, faults }: Line, url: string, body: object): Promise<void> {
  const whole = JSON.stringify(body);
  const post = (text: string, secret: string) =>
    fetch(url, {
      method: 'POST',
      headers: {
        ...{ authorization: `Bearer ${secret}`, 'content-type': 'application/json' },
        'x-experience-api-version': '2.0.0',
      },
      body: text,
    });
  if (faults.has('halfPage')) await post(whole.slice(0, whole.length / 2), token);
  if (faults.has('unauthorized')) await post(whole, 'another-token');
  const res = await post(whole, token);
  if (res.ok) return;
  const said = await res.text();
  // An archived course is told no more.
  if (res.status === 409 && said.includes('archived')) return;
  throw new Error(`The tool refused what the campus told: ${res.status} ${said}`);
}
