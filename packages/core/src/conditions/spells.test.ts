import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { at, factsOf, item, person } from '../testing/build.ts';
import { runs } from '../testing/runs.ts';
import { contains } from '../time/stretches.ts';
import type { Condition } from './condition.ts';
import { truthFor } from './evaluate.ts';
import { evidenceAt } from './evidence.ts';
import { spellAt, spellsAt, spellsAtEach } from './spells.ts';
import { verdictsOf, VERDICT_NO, VERDICT_UNKNOWN, VERDICT_YES } from './verdict.ts';
import type { Value } from '../measures/values/value.ts';

const away: Condition = { measure: 'daysSinceVisit', is: '>=', value: 5 };
/** Away from Sep 6 to Sep 10, from Sep 15 to Sep 20, and from Sep 25 on. */
const story = () =>
  factsOf({
    people: [person('p1'), person('late', { enrolledAt: at('2026-09-20T10:17') })],
    items: [item('q1')],
    events: [
      ['p1', 'visit', '2026-09-01T14:03'],
      ['p1', 'visit', '2026-09-10T08:00'],
      ['p1', 'visit', '2026-09-20T08:00'],
    ],
  });

describe('who is in a spell at each of many rounds', () => {
  test('are those who are at each of them alone, at both edges of each spell and in between', () => {
    const facts = story();
    const edges = truthFor(facts, 0, away).yes.filter(Number.isFinite);
    expect(edges.length).toBeGreaterThanOrEqual(4);
    const all = [at('2026-08-31T00:00'), ...edges.flatMap((t) => [t - 1, t, t + 1]), at('2026-12-01T00:00')];
    fc.assert(
      fc.property(fc.subarray(all), (instants) => {
        const each = spellsAtEach(facts, away, instants);
        expect([...each.keys()]).toEqual(instants);
        for (const t of instants) expect({ t, spells: each.get(t) }).toEqual({ t, spells: spellsAt(facts, away, t) });
      }),
      runs(19, 60),
    );
  });

  test('in roster order, as the reader of one person says', () => {
    const facts = story();
    for (const t of [at('2026-09-21T12:00'), at('2026-09-26T12:00'), at('2026-10-01T12:00')]) {
      const found = [0, 1].flatMap((person) => {
        const spell = spellAt(facts, person, away, t);
        return spell ? [{ person, ...spell }] : [];
      });
      expect(spellsAt(facts, away, t)).toEqual(found);
    }
  });

  test('have one and the same spell for as long as it lasts, whatever lies between', () => {
    const [early, one, two] = [at('2026-09-08T12:00'), at('2026-10-01T12:00'), at('2026-10-02T12:00')];
    const each = spellsAtEach(story(), away, [early, one, two]);
    expect(each.get(one)![0]).toBe(each.get(two)![0]);
    expect(each.get(one)![0]).not.toBe(each.get(early)![0]);
    expect(spellsAtEach(story(), { ...away, value: 90 }, [two]).get(two)).toEqual([]);
    expect(spellsAtEach(story(), away, []).size).toBe(0);
  });
});

describe('evidence', () => {
  test('[H4] says nothing before the story begins, and begins with its first instant', () => {
    const facts = story();
    const verdict = (t: number) => evidenceAt(facts, 1, { measure: 'missing', is: '>=', value: 0 }, t)[0]!.verdict;
    expect(verdict(at('2026-09-20T10:17') - 1)).toBeNull();
    expect(verdict(at('2026-09-20T10:17'))).toBe(true);
  });

  test('[C3] has no verdict on an item that is gone, not even that it is empty', () => {
    const gone: Condition = { measure: 'score', item: 'gone', is: 'empty' };
    expect(evidenceAt(story(), 0, gone, at('2026-09-21T12:00'))[0]!.verdict).toBeNull();
  });

  test('names the mark behind a threshold, and a mark that is gone has no number', () => {
    const by = (value: { mark: string } | number) =>
      evidenceAt(story(), 0, { measure: 'score', item: 'q1', is: '<', value }, at('2026-09-21T12:00'))[0]!;
    const marked = by({ mark: 'mastery' });
    expect([marked.threshold, marked.mark]).toEqual([80, 'mastery']);
    expect(by({ mark: 'gone' })).toMatchObject({ mark: 'gone', threshold: null, verdict: null });
    expect(by(80)).not.toHaveProperty('mark');
  });
});

describe('what was computed of a student is kept', () => {
  test('and computed anew when it depends on the class and the class moved on', () => {
    const facts = factsOf({
      people: [person('p1'), person('p2')],
      items: [item('q1', { dueAt: at('2026-09-13T23:59') })],
      grades: [
        ['p1', 'q1', 10, '2026-09-15T08:00'],
        ['p2', 'q1', 10, '2026-09-15T08:00'],
      ],
    });
    const below: Condition = { all: [{ measure: 'gradeVsClass', is: '<', value: 0 }] };
    const now = at('2026-09-20T12:00');
    const first = truthFor(facts, 0, below);
    expect(contains(first.yes, now)).toBe(false);
    const again = truthFor(facts, 0, below);
    expect([again.yes === first.yes, again.no === first.no]).toEqual([true, true]);
    // Another's better grade alone puts the first student under the mean of the class.
    facts.history.addGrade({ person: 'p2', item: 'q1', criterion: null, points: 20, at: at('2026-09-16T08:00') });
    expect(contains(truthFor(facts, 0, below).yes, now)).toBe(true);
    // What nobody else can change stays.
    const own = truthFor(facts, 0, away).yes;
    facts.history.addEvent({ person: 'p2', kind: 'visit', item: null, at: at('2026-09-17T08:00') });
    expect(truthFor(facts, 0, away).yes).toBe(own);
    facts.history.addEvent({ person: 'p1', kind: 'visit', item: null, at: at('2026-09-17T08:00') });
    expect(truthFor(facts, 0, away).yes).not.toEqual(own);
  });
});

describe('verdicts over columns', () => {
  const values: Record<string, readonly (Value | undefined)[]> = {
    missing: [2, 0, null, undefined, 2],
    late: [0, 0, 3, 3, null],
  };
  const missing: Condition = { measure: 'missing', is: '>=', value: 1 };
  const late: Condition = { measure: 'late', is: '>=', value: 1 };
  const verdicts = (condition: Condition) =>
    [...verdictsOf(condition, {}, 5, (leaf) => values[leaf.measure]!)].map((v) =>
      v === VERDICT_YES ? 'T' : v === VERDICT_NO ? 'F' : v === VERDICT_UNKNOWN ? 'U' : v,
    );

  // Kleene, Introduction to Metamathematics (1952), §64, from memory.
  test('[C3] follow the three-valued tables', () => {
    expect(verdicts(missing).join('')).toBe('TFUUT');
    expect(verdicts(late).join('')).toBe('FFTTU');
    expect(verdicts({ all: [missing, late] }).join('')).toBe('FFUUU');
    expect(verdicts({ any: [missing, late] }).join('')).toBe('TFTTT');
    expect(verdicts({ none: [missing, late] }).join('')).toBe('FTFFF');
    expect(verdicts({ none: [missing] }).join('')).toBe('FTUUF');
    // What a measure says nothing of is not empty either.
    expect(verdicts({ measure: 'missing', is: 'empty' }).join('')).toBe('FFTUF');
  });
});
