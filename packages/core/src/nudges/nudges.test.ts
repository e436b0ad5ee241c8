import { describe, expect, test } from '@jest/globals';
import { classify, retryDelay } from './delivery.ts';
import { canMove, countsForBudget, countsForLimits, MESSAGE_STATES, nudgeKey } from './message.ts';

describe('a message’s life', () => {
  test('[R11] never goes from sent anywhere, and only a claimed one can be sent', () => {
    for (const s of MESSAGE_STATES) expect(canMove('sent', s)).toBe(false);
    expect(MESSAGE_STATES.filter((s) => canMove(s, 'sent'))).toEqual(['handing', 'uncertain']);
    expect(canMove('uncertain', 'handing')).toBe(false);
  });

  test('[R3] withdrawn and failed ones do not count, dismissed ones not for the budget', () => {
    expect(MESSAGE_STATES.filter((s) => !countsForLimits(s))).toEqual(['failed', 'withdrawn']);
    expect(MESSAGE_STATES.filter((s) => !countsForBudget(s))).toEqual(['failed', 'withdrawn', 'dismissed']);
  });

  test('has one key for a rule, a student and a round', () => {
    expect(nudgeKey('a', 'p1', 5)).toBe('a:p1:5');
  });
});

describe('a mail server’s answer', () => {
  // RFC 5321 §4.2.1: the first digit 4 is a transient, 5 a permanent refusal.
  test('4yz is tried again, 5yz is not, silence after the text is unknown', () => {
    const kind = (e: object) => classify({ message: 'm', ...e }).kind;
    expect(kind({ responseCode: 421 })).toBe('transient');
    expect(kind({ responseCode: 550, command: 'RCPT TO' })).toBe('permanent');
    expect(kind({ code: 'ECONNREFUSED', command: 'CONN' })).toBe('transient');
    expect(kind({ code: 'ECONNECTION', command: 'DATA' })).toBe('unknown');
    expect(kind({ responseCode: 451, command: 'DATA' })).toBe('transient');
    expect(kind({ code: 'EENVELOPE' })).toBe('permanent');
  });

  test('waits grow and end', () => {
    const waits = [1, 2, 3, 4, 5].map((n) => retryDelay(n)!);
    expect(waits).toEqual([...waits].sort((a, b) => a - b));
    expect(retryDelay(6)).toBeNull();
  });
});
