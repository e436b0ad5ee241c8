import { beforeEach, expect, test } from '@jest/globals';
import { tabStorage } from './tabStorage.ts';

type Drafts = { readonly drafts: Readonly<Record<string, string>> };
const NAME = 'drafts';
const open = (tab: string) => tabStorage<'drafts', Drafts>('drafts', tab);
const of = (storage: ReturnType<typeof open>) => (storage.getItem(NAME) as { state: Drafts }).state.drafts;
const keep = (storage: ReturnType<typeof open>, drafts: Drafts['drafts']) =>
  void storage.setItem(NAME, { state: { drafts }, version: 1 });

beforeEach(() => localStorage.clear());

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

test('what is not readable is nothing', () => {
  localStorage.setItem('drafts broken', '{');
  expect(of(open('one'))).toEqual({});
});
