/** Two people who edit one thing at a time. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { mergedSet } from './merge.ts';

const was = { section: '01', fields: { Cohort: 'A', Room: '7' }, excused: ['p1'], contacts: [{ kind: 'coach' }] };

describe('what somebody sets', () => {
  test('leaves what they did not touch as it is by now', () => {
    const now = { ...was, section: '02' };
    expect(mergedSet(now, { ...was, fields: { Cohort: 'B', Room: '7' } }, was)).toEqual({
      set: { ...was, section: '02', fields: { Cohort: 'B', Room: '7' } },
      collisions: [],
    });
  });
  test('is merged by key in own columns and among the excused, where keys were added and removed too', () => {
    const now = { fields: { Cohort: 'A', Seat: '3' }, excused: ['p1', 'p2'] };
    const mine = { fields: { Cohort: 'B', Room: '7' }, excused: ['p3'] };
    expect(mergedSet<object>(now, mine, was)).toEqual({
      set: { fields: { Cohort: 'B', Seat: '3' }, excused: ['p2', 'p3'] },
      collisions: [],
    });
  });
  test('collides where both changed the same key, or the same field that has no keys', () => {
    const now = { section: '02', fields: { Cohort: 'C', Room: '7' }, contacts: [] };
    const mine = { section: '03', fields: { Cohort: 'B', Room: '7' }, contacts: [{ kind: 'parent' }] };
    expect(mergedSet<object>(now, mine, was).collisions).toEqual([
      { field: 'section', key: null, theirs: '02' },
      { field: 'fields', key: 'Cohort', theirs: 'C' },
      { field: 'contacts', key: null, theirs: [] },
    ]);
  });
  test('stands where both changed it to the same, and where it is not known what they had before them', () => {
    expect(mergedSet({ section: '02' }, { section: '02' }, was).collisions).toEqual([]);
    expect(mergedSet({ section: '02' }, { section: '03' }, undefined).set).toEqual({ section: '03' });
    expect(mergedSet<object>({ url: 'a' }, { url: 'b' }, was)).toEqual({ set: { url: 'b' }, collisions: [] });
  });
  test('is merged by key where a client does not say what it had before, so that nothing it does not name is lost', () => {
    const now = {
      fields: { Cohort: 'A', Room: '7' },
      excused: ['p1'],
      breaks: [{ from: '2026-11-23', to: '2026-11-27' }],
      section: '01',
    };
    const mine = {
      fields: { Cohort: 'B' },
      excused: ['p2'],
      breaks: [
        { from: '2026-11-23', to: '2026-11-28' },
        { from: '2026-12-24', to: '2026-12-26' },
      ],
      section: '02',
    };
    expect(mergedSet<object>(now, mine, undefined)).toEqual({
      set: { fields: { Cohort: 'B', Room: '7' }, excused: ['p1', 'p2'], breaks: mine.breaks, section: '02' },
      collisions: [],
    });
  });
  test('stands over what they have seen of the other, and collides again where that has changed once more', () => {
    const now = { section: '02', fields: { Cohort: 'C', Room: '8' } };
    const mine = { section: '03', fields: { Cohort: 'B', Room: '7' } };
    expect(mergedSet<object>(now, mine, was, now)).toEqual({
      set: { section: '03', fields: { Cohort: 'B', Room: '8' } },
      collisions: [],
    });
    expect(mergedSet<object>({ ...now, section: '05' }, mine, was, now).collisions).toMatchObject([{ theirs: '05' }]);
  });
  test('is not told of a field that was empty and stayed so', () => {
    expect(mergedSet<object>({ email: 'a@x.example' }, { email: null }, { email: '' })).toEqual({
      set: { email: 'a@x.example' },
      collisions: [],
    });
  });
  test('is by whom it is for among extensions, and by the first day among breaks', () => {
    const [one, two] = [
      { person: 'p1', dueAt: 1 },
      { section: '01', dueAt: 2 },
    ];
    const later = { ...one, dueAt: 5 };
    const found = mergedSet<object>({ extensions: [one, two] }, { extensions: [later] }, { extensions: [one] });
    expect(found).toEqual({ set: { extensions: [later, two] }, collisions: [] });
    const spring = { from: '2027-03-08', to: '2027-03-12' };
    const longer = { ...spring, to: '2027-03-14' };
    const both = mergedSet<object>(
      { breaks: [{ ...spring, name: 'Rest' }] },
      { breaks: [longer] },
      { breaks: [spring] },
    );
    expect(both.collisions).toMatchObject([{ field: 'breaks', key: '2027-03-08' }]);
  });
});

test('changes of different keys both stand, and the order of saving does not matter', () => {
  const record = fc.dictionary(fc.constantFrom('a', 'b', 'c', 'd'), fc.integer({ min: 0, max: 2 }));
  fc.assert(
    fc.property(record, record, record, (base, mine, theirs) => {
      const one = mergedSet({ fields: theirs }, { fields: mine }, { fields: base });
      const other = mergedSet({ fields: mine }, { fields: theirs }, { fields: base });
      expect(one.collisions.map((c) => c.key).toSorted()).toEqual(other.collisions.map((c) => c.key).toSorted());
      if (one.collisions.length === 0) expect(one.set).toEqual(other.set);
    }),
  );
});
