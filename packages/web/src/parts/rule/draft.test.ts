import { beforeEach, describe, expect, test } from '@jest/globals';
import type { Rule } from '@zest-bell/core/rules';
import { draftKey, sameRule, useDrafts } from './draft.ts';

const rule = (name: string): Rule => ({ name, status: 'on' }) as Rule;
const key = draftKey(1, 'away');
const saved = { rule: rule('saved'), version: 3 };
const store = () => useDrafts.getState();
const name = () => store().drafts[key]?.rule.name;

beforeEach(() => {
  localStorage.clear();
  useDrafts.setState({ drafts: {} });
});

describe('a draft', () => {
  test('is undone and redone step by step', () => {
    store().edit(key, saved, rule('one'));
    store().edit(key, saved, rule('two'));
    store().undo(key);
    expect(name()).toBe('one');
    store().undo(key);
    expect(name()).toBe('saved');
    store().redo(key);
    store().redo(key);
    expect(name()).toBe('two');
  });

  test('takes a whole drag as one step', () => {
    for (const n of ['4', '5', '6']) store().edit(key, saved, rule(n), 'drag');
    store().undo(key);
    expect(name()).toBe('saved');
  });

  test('outlives a reload, and is gone when dropped', () => {
    store().edit(key, saved, rule('kept'));
    expect(JSON.stringify({ ...localStorage })).toContain('kept');
    store().drop(key);
    expect(JSON.stringify({ ...localStorage })).not.toContain('kept');
  });

  test('remembers from which saved version it was begun', () => {
    store().edit(key, saved, rule('mine'));
    expect(store().drafts[key]!.version).toBe(3);
    store().rebase(key, { rule: rule('theirs'), version: 4 }, rule('both'));
    const { version, base, rule: merged } = store().drafts[key]!;
    expect([version, base?.name, merged.name]).toEqual([4, 'theirs', 'both']);
    store().undo(key);
    expect(name()).toBe('mine');
  });
});

test('two rules that differ in being on alone say the same', () => {
  expect(sameRule(rule('x'), { ...rule('x'), status: 'paused' })).toBe(true);
  expect(sameRule(rule('x'), rule('y'))).toBe(false);
});
