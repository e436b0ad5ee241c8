import { describe, expect, test } from '@jest/globals';
import { DAY, MINUTE } from '../time/instant.ts';
import {
  afterHandOver,
  classify,
  retryDelay,
  SMTP_PHASES,
  troubleDelay,
  type DeliveryOutcome,
  type SmtpPhase,
} from './delivery.ts';
import { silenceOf, unansweredAfter, type HandOverResult } from './silence.ts';
import {
  canMove,
  isPending,
  statesBefore,
  countsForBudget,
  countsForLimits,
  MESSAGE_STATES,
  nudgeKey,
} from './message.ts';

describe('a message’s life', () => {
  test('[R11] never goes from sent anywhere, and only a claimed one can be sent', () => {
    for (const s of MESSAGE_STATES) expect(canMove('sent', s)).toBe(false);
    expect(statesBefore('sent')).toEqual(['handing', 'uncertain']);
    expect(canMove('uncertain', 'handing')).toBe(false);
  });

  test('[R11] goes these ways and no others', () => {
    expect(Object.fromEntries(MESSAGE_STATES.map((to) => [to, statesBefore(to)]))).toEqual({
      queued: ['held', 'handing', 'failed', 'uncertain'],
      held: ['queued', 'handing', 'dismissed'],
      handing: ['queued'],
      sent: ['handing', 'uncertain'],
      failed: ['queued', 'handing', 'uncertain'],
      // From “queued” in a copy alone, where it may have left from what was copied.
      uncertain: ['queued', 'handing'],
      withdrawn: ['queued', 'held', 'handing'],
      dismissed: ['held'],
    });
  });

  test('[R6] is pending while it waits, is held or is on its way', () => {
    expect(MESSAGE_STATES.filter(isPending)).toEqual(['queued', 'held', 'handing']);
  });

  test('[R3] withdrawn and failed ones do not count, dismissed ones not for the budget', () => {
    expect(MESSAGE_STATES.filter((s) => !countsForLimits(s))).toEqual(['failed', 'withdrawn']);
    expect(MESSAGE_STATES.filter((s) => !countsForBudget(s))).toEqual(['failed', 'withdrawn', 'dismissed']);
  });

  test('has one key for a rule, a student and a round', () => {
    expect(nudgeKey('a', 'p1', 5)).toBe('a:p1:5');
  });
});

describe('a mail server that says nothing of its kind', () => {
  const none = classify({ phase: 'recipient', response: 'hello?' });
  const refused = classify({ phase: 'recipient', responseCode: 550, response: 'no' });

  const of = (course: number, domain: string, outcome: DeliveryOutcome): HandOverResult => ({
    course,
    domain,
    outcome,
  });
  const after = (...all: HandOverResult[]) =>
    all.reduce<readonly HandOverResult[]>((before, one) => unansweredAfter(before, one), []);

  test('is in no state to take mail after three messages in a row of several courses or to several domains', () => {
    expect([none.kind, classify({ phase: 'text', response: 'what' }).kind]).toEqual(['transient', 'unknown']);
    const [a, b, other] = [of(1, 'a.example', none), of(1, 'b.example', none), of(2, 'a.example', none)];
    expect(silenceOf(after(a, b))).toBe('none');
    expect(silenceOf(after(a, b, a))).toBe('server');
    expect(silenceOf(after(a, a, other))).toBe('server');
    expect(silenceOf(after(a, b, of(1, 'a.example', refused), a, b))).toBe('none');
  });

  test('may only have a slow reader where it is silent to one course and one domain: it is asked', () => {
    const a = of(1, 'a.example', none);
    expect(silenceOf(after(a, a))).toBe('none');
    expect(silenceOf(after(a, a, a))).toBe('ask');
  });

  test('takes nothing where it closes the line each time', () => {
    const closed = of(1, 'a.example', classify({ phase: 'text', response: 'closed', dropped: true }));
    expect(silenceOf(after(closed, closed))).toBe('none');
    expect(silenceOf(after(closed, closed, closed))).toBe('server');
  });

  test('is not so because it is slow, nor when it could not be reached at all', () => {
    const a = of(1, 'a.example', none);
    const late = classify({ phase: 'text', response: 'longer than 60 seconds', late: true });
    expect(after(a, a, of(1, 'a.example', late))).toEqual([]);
    expect(after(a, a, of(1, 'a.example', classify({ phase: 'connect', response: 'refused' })))).toEqual([a, a]);
  });

  // RFC 5321 §3.8 and §4.2.3, from memory.
  test.each(SMTP_PHASES)('that says 421 at %s closes its line for reasons of its own', (phase) => {
    expect(classify({ phase, responseCode: 421, response: '421 shutting down' })).toMatchObject({
      kind: 'unavailable',
      trouble: 'refused',
    });
  });
});

describe('a mail server’s answer', () => {
  const troubleOf = (phase: SmtpPhase, responseCode?: number) => {
    const outcome = classify({ phase, responseCode, response: 'r' });
    return outcome.kind === 'unavailable' ? outcome.trouble : outcome.kind;
  };

  // RFC 5321 §4.2.1: the first digit 4 is a transient, 5 a permanent refusal.
  test('about the recipient or the text: 4yz is tried again, 5yz is not, silence after the text is unknown', () => {
    expect([troubleOf('recipient', 450), troubleOf('recipient', 550), troubleOf('recipient')]).toEqual([
      'transient',
      'permanent',
      'transient',
    ]);
    expect([troubleOf('text', 451), troubleOf('text', 554), troubleOf('text')]).toEqual([
      'transient',
      'permanent',
      'unknown',
    ]);
    expect(classify({ phase: 'recipient', response: 'no recipient', unsound: true }).kind).toBe('permanent');
    expect([399, 400, 499, 500, 599, 600].map((code) => troubleOf('text', code))).toEqual([
      'unknown',
      'transient',
      'transient',
      'permanent',
      'permanent',
      'unknown',
    ]);
    expect([200, 399, 600].map((code) => troubleOf('recipient', code))).toEqual([
      'transient',
      'transient',
      'transient',
    ]);
  });

  test('before the recipient is named says nothing about the message: it waits, with the reason', () => {
    expect([troubleOf('connect'), troubleOf('connect', 554), troubleOf('connect', 421)]).toEqual([
      'unreachable',
      'refused',
      'refused',
    ]);
    expect([troubleOf('encrypt'), troubleOf('encrypt', 454)]).toEqual(['encryption', 'encryption']);
    expect([troubleOf('signIn', 535), troubleOf('signIn')]).toEqual(['password', 'password']);
    expect([troubleOf('sender', 550), troubleOf('sender', 451)]).toEqual(['sender', 'sender']);
  });

  // RFC 4954 §6: 530 authentication required, 535 credentials invalid.
  test('that wants a sign-in is about the password wherever it comes', () => {
    expect([troubleOf('sender', 530), troubleOf('recipient', 530), troubleOf('text', 535)]).toEqual([
      'password',
      'password',
      'password',
    ]);
  });

  test('waits grow, and end after four to five days (RFC 5321 §4.5.4.1)', () => {
    expect([1, 2, 5, 6, 16, 17].map((n) => retryDelay(n))).toEqual([
      MINUTE,
      5 * MINUTE,
      240 * MINUTE,
      480 * MINUTE,
      480 * MINUTE,
      null,
    ]);
    const waits: number[] = [];
    for (let n = 1; retryDelay(n) !== null; n++) waits.push(retryDelay(n)!);
    expect(waits).toEqual([...waits].sort((a, b) => a - b));
    const days = waits.reduce((a, b) => a + b, 0) / DAY;
    expect(days).toBeGreaterThanOrEqual(3.8);
    expect(days).toBeLessThan(5);
    expect(troubleDelay(1)).toBe(MINUTE);
    expect(troubleDelay(500)).toBe(30 * MINUTE);
  });
});

test('what an answer makes of a message: tried again until it is given up, and as before where it says nothing of it', () => {
  const now = 1_000;
  const last = Array.from({ length: 100 }, (_, i) => i + 1).find((attempts) => retryDelay(attempts) === null)!;
  const after = (kind: Parameters<typeof afterHandOver>[0]['kind'], attempts = 1) =>
    afterHandOver({ kind }, attempts, now);
  expect(after('sent')).toEqual({ to: 'sent' });
  expect(after('permanent')).toEqual({ to: 'failed' });
  expect(after('unknown')).toEqual({ to: 'uncertain' });
  expect(after('unavailable', last)).toBe('asBefore');
  expect(after('transient', 2)).toEqual({ to: 'queued', at: now + retryDelay(2)! });
  expect(after('transient', last)).toEqual({ to: 'failed' });
});
