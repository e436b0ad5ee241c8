import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { runs } from '../testing/runs.ts';
import { matchItems, soundTold, matchProblems, type ItemIdentity, type ConfirmedMatches } from './match.ts';

const known = (id: string, title: string, kind: ItemIdentity['kind'] = 'quiz'): ItemIdentity => ({ id, title, kind });
const lines = (source: ItemIdentity[], target: ItemIdentity[], told: ConfirmedMatches = {}) =>
  matchItems(source, target, told).map((m) => `${m.from} ${m.to ?? '–'} ${m.how}`);

describe('[K3] items match', () => {
  test('as somebody told, before anything else', () => {
    const source = [known('a', 'Tides'), known('b', 'Buoys')];
    expect(lines(source, [known('a', 'Tides'), known('b', 'Buoys')], { a: 'b', b: null })).toEqual([
      'a b told',
      'b – told',
    ]);
  });

  test('by id, then by title without case, blanks and punctuation, of several in order', () => {
    const source = [known('1', 'Tide Quiz: week 1'), known('2', 'TIDE-QUIZ, Week 1'), known('q', 'Knots')];
    const target = [known('x', 'tide quiz week 1'), known('y', 'Tide quiz (week 1)'), known('q', 'Something else')];
    expect(lines(source, target)).toEqual(['1 x title', '2 y title', 'q q id']);
  });

  test('within one kind alone', () => {
    expect(lines([known('q', 'Tides', 'quiz')], [known('q', 'Tides', 'page')])).toEqual(['q – none']);
  });

  test('where they are alike: the last number, and more than half of the words of each', () => {
    const one = (a: string, b: string) => matchItems([known('a', a)], [known('b', b)])[0]!.how;
    expect(one('Chart lab 3: bearings', 'Chart lab 3')).toBe('alike');
    expect(one('Chart lab 03: bearings', 'Chart lab 3')).toBe('alike');
    expect(one('Week 2, chart lab 3', 'Chart lab 3')).toBe('alike');
    expect(one('Chart lab 3', 'Chart lab 4')).toBe('none');
    expect(one('Chart lab', 'Chart lab 4')).toBe('none');
    // Half of the words is not more than half.
    expect(one('Chart lab 3: bearings taken', 'Chart lab 3')).toBe('none');
    expect(one('Chart chart chart bearings', 'Chart')).toBe('none');
    expect(one('1', '01')).toBe('none');
  });

  test('but not where two could be meant', () => {
    expect(lines([known('a', 'Chart lab')], [known('b', 'Chart lab one'), known('c', 'Chart lab two')])).toEqual([
      'a – none',
    ]);
    expect(lines([known('a', 'Chart lab one'), known('b', 'Chart lab two')], [known('c', 'Chart lab')])).toEqual([
      'a – none',
      'b – none',
    ]);
  });

  test('what is matched has left both lists: a title no longer makes an alike one unclear', () => {
    const target = [known('x', 'Chart lab 3: bearings'), known('y', 'Chart lab 3 bearings again')];
    expect(lines([known('a', 'Chart lab 3: bearings'), known('b', 'Chart lab 3')], target)).toEqual([
      'a x title',
      'b – none',
    ]);
    expect(lines([known('a', 'Chart lab 3: bearings'), known('b', 'Chart lab 3, again')], target)).toEqual([
      'a x title',
      'b y alike',
    ]);
  });

  test('what was told and cannot be is named', () => {
    const source = [known('a', 'A'), known('b', 'B'), known('p', 'P', 'page')];
    const target = [known('x', 'X'), known('y', 'Y')];
    expect(matchProblems(source, target, { a: 'x', b: null })).toEqual([]);
    expect(matchProblems(source, target, { z: 'x', a: 'w', p: 'x' })).toEqual([
      { code: 'unknown', from: 'z', in: 'source', name: 'z' },
      { code: 'unknown', from: 'a', in: 'target', name: 'w' },
      { code: 'kinds', from: 'p', in: 'target', name: 'x' },
    ]);
    expect(matchProblems(source, target, { a: 'x', b: 'x' })).toEqual([
      { code: 'twice', from: 'b', in: 'target', name: 'x' },
    ]);
    // What somebody said of items that are gone counts no more; the rest does.
    expect(soundTold(source, target, { z: 'x', a: 'w', b: 'y', p: null })).toEqual({ b: 'y', p: null });
  });

  test('each once, within one kind, and as a plain reading of the passes says', () => {
    const title = fc
      .tuple(
        fc.constantFrom('Chart', 'chart lab', 'Lab: tides', 'Tides'),
        fc.constantFrom('', ' 1', ' 01', ' 2', ', again'),
      )
      .map((t) => t.join(''));
    const items = (ids: string[]) =>
      fc.uniqueArray(
        fc.record({ id: fc.constantFrom(...ids), title, kind: fc.constantFrom('quiz' as const, 'page' as const) }),
        { selector: (i) => i.id },
      );
    fc.assert(
      fc.property(items(['a', 'b', 'c', 'd', 'e']), items(['a', 'b', 'x', 'y', 'z']), (source, target) => {
        const found = matchItems(source, target);
        const taken = found.flatMap((m) => m.to ?? []);
        expect(new Set(taken).size).toBe(taken.length);
        expect(found).toEqual(plainReading(source, target));
      }),
      runs(0x3a7c, 500),
    );
  });
});

/** The rule word by word, without maps. */
function plainReading(source: readonly ItemIdentity[], target: readonly ItemIdentity[]) {
  const out = source.map((s) => ({ from: s.id, to: null as string | null, how: 'none' }));
  const open = () => source.filter((s) => out.find((o) => o.from === s.id)!.to === null);
  const left = () => target.filter((t) => !out.some((o) => o.to === t.id));
  const put = (s: ItemIdentity, t: ItemIdentity, how: string) =>
    Object.assign(
      out.find((o) => o.from === s.id)!,
      { to: t.id, how },
    );
  const plain = (s: string) => [...s.toLowerCase()].filter((c) => /[a-z0-9]/.test(c)).join('');
  for (const s of open()) for (const t of left()) if (s.kind === t.kind && s.id === t.id) put(s, t, 'id');
  for (const s of open()) {
    const t = left().find((x) => x.kind === s.kind && plain(x.title) === plain(s.title));
    if (t) put(s, t, 'title');
  }
  const words = (s: string) => [
    ...new Set(
      s
        .toLowerCase()
        .split(/[^a-z]+/)
        .filter(Boolean),
    ),
  ];
  const number = (s: string) => Number(s.split(/\D+/).filter(Boolean).at(-1) ?? NaN);
  const alike = (s: ItemIdentity, t: ItemIdentity) => {
    const [a, b] = [words(s.title), words(t.title)];
    const both = a.filter((w) => b.includes(w)).length;
    return (
      s.kind === t.kind && Object.is(number(s.title), number(t.title)) && both > a.length / 2 && both > b.length / 2
    );
  };
  const [ss, ts] = [open(), left()];
  for (const s of ss) {
    const partners = ts.filter((t) => alike(s, t));
    if (partners.length === 1 && ss.filter((x) => alike(x, partners[0]!)).length === 1) put(s, partners[0]!, 'alike');
  }
  return out;
}
