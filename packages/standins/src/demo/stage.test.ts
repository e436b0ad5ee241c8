import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { HOUR, parseInstant } from '@zest-bell/core/time';
import { makeCourse } from '@zest-bell/core/course';
import { Campus, type CampusEvent } from '../campus/simulator.ts';
import { sendToOwnInterface } from '../campus/ownInterface.ts';
import { DemoClock } from '../clock/demoClock.ts';
import { DEMO_COURSES, SET_UP_AT, SEED } from './saltmarsh.ts';
import { DemoStage } from './stage.ts';

const [nav] = DEMO_COURSES;
const course = makeCourse(nav!.parts);
const START = SET_UP_AT + 8 * HOUR;

interface ReceivedEvents {
  readonly token: string | undefined;
  readonly events: readonly { id: string; at: string }[];
}

let folder: string;
let server: Server;
let told: ReceivedEvents[];
let answer: { status: number; body: object };
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'zest-bell-stage-'));
  told = [];
  answer = { status: 200, body: { taken: 0, repeated: 0, refused: [] } };
  server = createServer((req, res) => {
    let text = '';
    req.on('data', (d: Buffer) => (text += d.toString()));
    req.on('end', () => {
      told.push({
        token: req.headers.authorization,
        ...(JSON.parse(text) as { events: CampusEvent[] & ReceivedEvents['events'] }),
      });
      res.writeHead(answer.status, { 'content-type': 'application/json' }).end(JSON.stringify(answer.body));
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
});
afterEach(async () => {
  server.closeAllConnections();
  await new Promise((closed) => server.close(closed));
  rmSync(folder, { recursive: true, force: true });
});

/** A stage with a server that holds rounds at the given instants, and records what it was asked to do and when. */
function stageWith(rounds: readonly number[], mails: readonly number[] = [], answers: readonly number[] = []) {
  const clock = new DemoClock(join(folder, 'clock.json'), START);
  const done: string[] = [];
  const hours = () => (clock.now() - START) / HOUR;
  const later = (all: readonly number[]) => Promise.resolve(all.find((t) => t > clock.now()) ?? null);
  const stage = new DemoStage({
    clock,
    feeds: [
      {
        tell: (activity) =>
          sendToOwnInterface(
            {
              base: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
              token: 'secret',
              timeZone: course.timeZone,
            },
            activity,
          ),
        campus: new Campus(course, { seed: SEED, habits: nav!.habits, never: nav!.never, letters: () => [] }),
      },
    ],
    hooks: {
      nextRound: () => later(rounds),
      nextMail: () => later(mails),
      runRounds: () => Promise.resolve(void done.push(`rounds ${hours()}`)),
      sendMail: () => Promise.resolve(void done.push(`mail ${hours()}`)),
      nextAnswer: () => answers.find((t) => t > clock.now()) ?? null,
      bringAnswers: (from, until) => {
        if (answers.some((t) => t > from && t <= until)) done.push(`answer ${hours()}`);
        return Promise.resolve();
      },
    },
  });
  return { stage, clock, done };
}

describe('moving the demo clock', () => {
  test('brings a student’s answer at its own instant, before the mail that passes it on', async () => {
    const { stage, done } = stageWith([], [], [START + HOUR]);
    await stage.moveTo(START + 2 * HOUR);
    expect(done.slice(0, 2)).toEqual(['answer 1', 'mail 1']);
  });

  test('stops at every round and every mail that lies before, mail first', async () => {
    const { stage, clock, done } = stageWith([START + 2 * HOUR], [START + HOUR]);
    await stage.moveTo(START + 3 * HOUR);
    expect(clock.now()).toBe(START + 3 * HOUR);
    expect(done).toEqual([1, 2, 3].flatMap((h) => [`mail ${h}`, `rounds ${h}`, `mail ${h}`]));
  });

  test('an hour, a day, to the next round; with no round left it stands', async () => {
    const { stage, clock } = stageWith([START + 5 * HOUR]);
    await stage.advance('hour');
    expect(clock.now()).toBe(START + HOUR);
    await stage.advance('nextRound');
    expect(clock.now()).toBe(START + 5 * HOUR);
    await stage.advance('nextRound');
    expect(clock.now()).toBe(START + 5 * HOUR);
    await stage.advance('day');
    expect(clock.now()).toBe(START + 29 * HOUR);
  });

  test('one move at a time, in the order in which they were asked for', async () => {
    const { stage, clock } = stageWith([]);
    await Promise.all([stage.advance('hour'), stage.advance('hour'), stage.advance('day')]);
    expect(clock.now()).toBe(START + 26 * HOUR);
  });
});

describe('the campus’s activity', () => {
  test('is told with the course’s token as the clock moves, each act once and none from ahead', async () => {
    const { stage, clock } = stageWith([START + 7 * HOUR, START + 30 * HOUR]);
    await stage.moveTo(START + 60 * HOUR);
    expect(told.every((t) => t.token === 'Bearer secret')).toBe(true);
    const events = told.flatMap((t) => t.events);
    expect(events.length).toBeGreaterThan(50);
    expect(new Set(events.map((e) => e.id)).size).toBe(events.length);
    expect(events.every((e) => parseInstant(e.at) > START && parseInstant(e.at) <= clock.now())).toBe(true);
  });

  test('is told again after a restart, with the same ids', async () => {
    const { stage } = stageWith([]);
    await stage.moveTo(START + 20 * HOUR);
    const before = told.flatMap((t) => t.events.map((e) => e.id));
    told = [];
    await stage.resume();
    const again = told.flatMap((t) => t.events.map((e) => e.id));
    expect(before.every((id) => again.includes(id))).toBe(true);
  });

  test('that the server refuses is an error, and the stage can be moved again afterwards', async () => {
    const { stage, clock } = stageWith([]);
    answer = { status: 401, body: { title: 'no' } };
    await expect(stage.moveTo(START + 12 * HOUR)).rejects.toThrow(/refused the campus’s activity: 401/);
    answer = { status: 200, body: { taken: 0, repeated: 0, refused: [{ path: 'events[0].person', message: 'who?' }] } };
    await expect(stage.moveTo(START + 24 * HOUR)).rejects.toThrow(/refused rows/);
    answer = { status: 200, body: { taken: 1, repeated: 0, refused: [] } };
    await stage.moveTo(START + 36 * HOUR);
    expect(clock.now()).toBe(START + 36 * HOUR);
  });
});

test('a silent campus tells nothing while the clock moves, and everything at once when it speaks again', async () => {
  const { stage, clock } = stageWith([]);
  await stage.silence(true);
  await stage.advance('day');
  expect(told).toEqual([]);
  // A restart does not make it speak.
  expect(new DemoClock(join(folder, 'clock.json'), START).silentSince).toBe(START);
  await stage.silence(false);
  expect(clock.silentSince).toBeNull();
  const instants = told.flatMap((t) => t.events.map((e) => parseInstant(e.at)));
  expect(instants.length).toBeGreaterThan(10);
  expect(Math.min(...instants)).toBeLessThan(START + 12 * HOUR);
});
