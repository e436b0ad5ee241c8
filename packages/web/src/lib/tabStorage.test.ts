import { beforeEach, expect, test } from '@jest/globals';
import { ownTab, tabStorage } from './tabStorage.ts';

type StoredDrafts = { readonly drafts: Readonly<Record<string, string>> };
const NAME = 'drafts';
const open = (tab: string) => tabStorage<'drafts', StoredDrafts>('drafts', tab);
const of = (storage: ReturnType<typeof open>) => (storage.getItem(NAME) as { state: StoredDrafts }).state.drafts;
const keep = (storage: ReturnType<typeof open>, drafts: StoredDrafts['drafts']) =>
  void storage.setItem(NAME, { state: { drafts }, version: 1 });

beforeEach(() => {
  localStorage.clear();
  sessionStorage.clear();
});

test('what one tab keeps never takes the place of what another keeps', () => {
  const [one, two] = [open('one'), open('two')];
  keep(one, { rule: 'typed in one' });
  keep(two, { rule: 'typed in two' });
  expect(of(open('one'))).toEqual({ rule: 'typed in one' });
  expect(of(open('two'))).toEqual({ rule: 'typed in two' });
});

test('a new tab begins with what earlier ones left, and lets go of it there too', () => {
  keep(open('one'), { a: 'of a', b: 'of b' });
  const later = open('later');
  expect(of(later)).toEqual({ a: 'of a', b: 'of b' });
  keep(later, { b: 'of b' });
  expect(of(open('next'))).toEqual({ b: 'of b' });
});

test('what the other tab has gone on with is not lost when a copy of it is let go', () => {
  const one = open('one');
  keep(one, { a: 'first words' });
  const later = open('later');
  of(later);
  keep(one, { a: 'more words' });
  keep(later, {});
  expect(of(open('one'))).toEqual({ a: 'more words' });
});

test('a tab that let go of all it had stays without after a reload', () => {
  keep(open('one'), { a: 'of a' });
  const two = open('two');
  of(two);
  keep(two, {});
  expect(of(open('two'))).toEqual({});
});

test('what a release without tabs has left is there', () => {
  localStorage.setItem('drafts', JSON.stringify({ state: { drafts: { a: 'of a' } }, version: 1 }));
  const one = open('one');
  expect(of(one)).toEqual({ a: 'of a' });
  keep(one, {});
  expect(of(open('two'))).toEqual({});
});

test('an entry that several closed tabs have does not come back once it is dropped', () => {
  keep(open('one'), { a: 'of a' });
  const two = open('two');
  of(two);
  keep(two, { a: 'of a', b: 'of b' });
  const three = open('three');
  of(three);
  keep(three, { b: 'of b' });
  expect(of(open('four'))).toEqual({ b: 'of b' });
});

test('a tab that is still open keeps an entry that another tab drops', () => {
  const one = open('one');
  of(one);
  keep(one, { a: 'of a' });
  localStorage.removeItem('drafts one');
  window.dispatchEvent(new StorageEvent('storage', { key: 'drafts one' }));
  expect(of(open('one'))).toEqual({ a: 'of a' });
});

test('a tab keeps its name when its page is loaded again, and a copy of it gets another', () => {
  const name = ownTab();
  const copy = ownTab();
  expect(copy).not.toBe(name);
  window.dispatchEvent(new Event('pagehide'));
  expect(ownTab()).toBe(copy);
});

test('what is not readable is nothing', () => {
  localStorage.setItem('drafts broken', '{');
  expect(of(open('one'))).toEqual({});
});
