import { describe, expect, test } from '@jest/globals';
import { NO_VIEW, type Brush, type LookoutColumn, type LookoutView } from '@zest-bell/core/lookout';
import { brushOn, withBrushOn } from './brushes.ts';

const MARKS = { mastery: 80 };
const days: LookoutColumn = { kind: 'measure', call: { measure: 'daysSinceVisit' } };
const sent: LookoutColumn = { kind: 'log', log: 'nudgesThisTerm' };
const rule = (id: string): LookoutColumn => ({ kind: 'rule', rule: id });
const range = (low: number | null, high: number | null): Brush => ({ kind: 'range', low, high });

const put = (view: LookoutView, column: LookoutColumn, brush: Brush | null): LookoutView => ({
  ...view,
  ...withBrushOn(view, column, brush),
});

describe('a brush', () => {
  test.each<[string, LookoutColumn]>([
    ['on a measure is a part of the condition', days],
    ['on the log is kept beside it', sent],
    ['on a rule is kept beside it', rule('away')],
  ])('%s, is found again, and goes', (_where, column) => {
    const brushed = put(NO_VIEW, column, range(3, 9));
    expect(brushOn(brushed, column, MARKS)).toEqual(range(3, 9));
    expect(brushOn(NO_VIEW, column, MARKS)).toBeNull();
    expect(brushOn(put(brushed, column, null), column, MARKS)).toBeNull();
  });

  test('on a measure leaves those on the log alone, and the other way round', () => {
    const both = put(put(NO_VIEW, days, range(5, null)), sent, range(null, 2));
    expect(brushOn(both, days, MARKS)).toEqual(range(5, null));
    expect(brushOn(both, sent, MARKS)).toEqual(range(null, 2));
    const one = put(both, days, null);
    expect(one.when).toBeNull();
    expect(brushOn(one, sent, MARKS)).toEqual(range(null, 2));
  });

  test('of a rule keeps its place among those of other rules when it is moved', () => {
    let view = NO_VIEW;
    for (const id of ['a', 'b', 'c']) view = put(view, rule(id), range(1, null));
    view = put(view, rule('b'), range(4, null));
    expect(view.ruleBrushes.map((b) => b.rule)).toEqual(['a', 'b', 'c']);
    expect(brushOn(view, rule('b'), MARKS)).toEqual(range(4, null));
  });

  test('of single values is none for a rule', () => {
    expect(put(NO_VIEW, rule('a'), { kind: 'some', values: ['x'] }).ruleBrushes).toEqual([]);
  });
});
