/**
 * Sends what happened to the tool: Caliper and xAPI, with a token of the course. What breaks off or is refused on its way is sent again
 * whole, as a platform's queue does; what it tells twice has the same ids.
 */
import type { PlatformFault } from './faults.ts';
import { envelopeOf, messagesOf, type Places } from './messages.ts';
import type { Activity } from '../campus/simulator.ts';

/** Of one envelope, and of one batch of statements. */
const MOST = 1000;

export interface TellingTarget {
  /** Where the course takes Caliper and xAPI. */
  readonly caliper: string;
  readonly xapi: string;
  readonly token: string;
  readonly places: Places;
  readonly faults: ReadonlySet<PlatformFault>;
}

/** Throws for what the tool refuses although it came whole. `now`: by the campus's clock. */
export async function sendByStandards(line: TellingTarget, activity: Activity, now: number): Promise<void> {
  const { events, statements } = messagesOf(activity, line.places);
  // An envelope without events still says that the platform is there.
  for (let i = 0; i === 0 || i < events.length; i += MOST)
    await send(line, line.caliper, envelopeOf(events.slice(i, i + MOST), line.places, now));
  for (let i = 0; i < statements.length; i += MOST) await sendStatements(line, statements.slice(i, i + MOST));
}

/** One that is known under its id already, and said otherwise, keeps none of the others back. */
async function sendStatements(line: TellingTarget, statements: readonly object[]): Promise<void> {
  if ((await send(line, line.xapi, statements)) || statements.length === 1) return;
  for (const statement of statements) await send(line, line.xapi, [statement]);
}

/** False where it collides with what is there (409): an archived course, which is told no more, or a statement that was told otherwise. */
async function send({ token, faults }: TellingTarget, url: string, body: object): Promise<boolean> {
  const whole = JSON.stringify(body);
  const post = (text: string, secret: string) =>
    fetch(url, {
      method: 'POST',
      headers: {
        authorization: `Bearer ${secret}`,
        'content-type': 'application/json',
        'x-experience-api-version': '2.0.0',
      },
      body: text,
    });
  if (faults.has('halfPage')) await post(whole.slice(0, whole.length / 2), token);
  if (faults.has('unauthorized')) await post(whole, 'another-token');
  const res = await post(whole, token);
  if (res.ok) return true;
  const said = await res.text();
  if (res.status === 409) return false;
  throw new Error(`The tool refused what the campus told: ${res.status} ${said}`);
}
