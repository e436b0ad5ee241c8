/** What keeps mail from leaving, and until when. */
import { asTx } from '../../testing/asTx.ts';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { troubleDelay } from '@zest-bell/core/nudges';
import { at, openStage, type TestStage } from '../../testing/stage.ts';
import { MailTroubleRow } from './entity.ts';
import { endTrouble, keepTrouble, mailTroubleOf, mailTroubles, tryAgainNow } from './mailTrouble.ts';
import { unguarded } from '../../testing/unguarded.ts';

const NOW = at('2026-09-10T12:00');
let stage: TestStage;
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
});
afterEach(() => stage.close());
const em = () => unguarded(stage.orm);
const rows = () => em().find(MailTroubleRow, {}, { orderBy: { course: 'asc' } });
const down = { trouble: 'unreachable' as const, response: 'connect ECONNREFUSED' };
const refused = { trouble: 'sender' as const, response: '550 not yours' };

describe('trouble with mail', () => {
  test('of the server is one for all courses, that of a sender is its course’s own', async () => {
    await keepTrouble(asTx(em()), 1, down, NOW);
    await keepTrouble(asTx(em()), 2, refused, NOW);
    expect(await rows()).toMatchObject([
      { course: 0, ...down, tries: 1, since: NOW, nextTryAt: NOW + troubleDelay(1) },
      { course: 2, ...refused, tries: 1, since: NOW, nextTryAt: NOW + troubleDelay(1) },
    ]);
    const { server, courses } = await mailTroubles(em());
    expect([server?.course, courses.map((c) => c.course)]).toEqual([0, [2]]);
    // While the whole server is down, that is what is in a course's way.
    expect((await mailTroubleOf(em(), 2))?.trouble).toBe('unreachable');
    expect((await mailTroubleOf(em(), 3))?.trouble).toBe('unreachable');
    await em().nativeDelete(MailTroubleRow, { course: 0 });
    expect(await mailTroubleOf(em(), 2)).toEqual({ ...refused, since: NOW, nextTryAt: NOW + troubleDelay(1) });
    expect(await mailTroubleOf(em(), 3)).toBeNull();
  });

  test('counts once for each try, keeps since when it is there, and is asked about ever later', async () => {
    // It says whether this is news, which is a line in the log.
    expect(await keepTrouble(asTx(em()), 1, down, NOW)).toBe(true);
    expect(await keepTrouble(asTx(em()), 1, { ...down, response: 'another of the same moment' }, NOW + 1)).toBe(false);
    const next = NOW + troubleDelay(1);
    expect(await rows()).toMatchObject([{ response: down.response, tries: 1, nextTryAt: next }]);
    expect(await keepTrouble(asTx(em()), 1, { trouble: 'password', response: '535 no' }, next)).toBe(true);
    expect(await rows()).toMatchObject([
      { course: 0, trouble: 'password', response: '535 no', since: NOW, tries: 2, nextTryAt: next + troubleDelay(2) },
    ]);
    expect(troubleDelay(2)).toBeGreaterThan(troubleDelay(1));
  });

  test('is kept as a line of at most 300 characters, whatever the server said', async () => {
    await keepTrouble(asTx(em()), 1, { ...down, response: `a\r\nb\u0007${'x'.repeat(400)}` }, NOW);
    const [row] = await rows();
    expect(row!.response).toBe(`a  b ${'x'.repeat(295)}`);
  });

  test('is tried again now when somebody says so', async () => {
    await keepTrouble(asTx(em()), 1, down, NOW);
    await keepTrouble(asTx(em()), 2, refused, NOW);
    await tryAgainNow(asTx(em()), NOW + 7);
    expect((await rows()).map((r) => r.nextTryAt)).toEqual([NOW + 7, NOW + 7]);
  });

  test('is over for the server and for the courses whose mail it took, and for no other', async () => {
    for (const course of [1, 2]) await keepTrouble(asTx(em()), course, refused, NOW);
    await keepTrouble(asTx(em()), 1, down, NOW);
    await endTrouble(asTx(em()), new Set());
    expect((await rows()).map((r) => r.course)).toEqual([0, 1, 2]);
    await endTrouble(asTx(em()), new Set([2]));
    expect((await rows()).map((r) => r.course)).toEqual([1]);
  });
});
