/** Rules as they are stored, the data they stand on, and what comes before they are on. */
import { asTx } from '../testing/asTx.ts';
import { afterEach, describe, expect, test } from '@jest/globals';
import { CourseRow } from '../course/entity.ts';
import { at, COURSE, openStage, ruleOf, type TestStage } from '../testing/stage.ts';
import { WordingRow } from '../wording/entity.ts';
import { RuleRow, RuleVersionRow } from './entity.ts';
import { archive, changeStatus, mustNotReachMany, saveEdit, type RuleStatusChange } from './lifecycle.ts';
import {
  earlierConditions,
  insertRule,
  overdueSince,
  readDocument,
  readableRule,
  ruleName,
  ruleNames,
  ruleOfRow,
  ruleWeights,
  rowsOn,
  withStatus,
} from './repository.ts';
import { rulesBySource, rulesWaitingForData, readsStaleSource } from './sources.ts';
import { unguarded } from '../testing/unguarded.ts';

let stage: TestStage;
afterEach(() => stage.close());

const NOW = at('2026-09-10T12:00');
const grade = { measure: 'courseGrade', is: '<', value: 60 };
const absent = { measure: 'absences', is: '>=', value: 2 };
const open = async (more: Partial<Parameters<typeof openStage>[0]> = {}) => {
  stage = await openStage({ now: '2026-09-10T12:00', ...more });
  return unguarded(stage.orm);
};
const other = async (em: Awaited<ReturnType<typeof open>>, more: Record<string, unknown>) => {
  // A course of its own, with the same rule in it.
  const course = (await import('@zest-bell/core/course')).makeCourse(COURSE);
  return insertRule(asTx(em), { id: 2, course }, ruleOf(more), null, NOW);
};

describe('rules of a course', () => {
  test('are known by name and weight, also where the rest cannot be read, and those of another course are not', async () => {
    const em = await open({
      rules: [ruleOf(), ruleOf({ id: 'grade', name: 'Low grade', when: grade, weight: 'light' })],
    });
    await other(em, { id: 'elsewhere', name: 'Elsewhere' });
    expect([...(await ruleNames(em, 1))]).toEqual([
      ['away', 'Away'],
      ['grade', 'Low grade'],
    ]);
    expect([...(await ruleWeights(em, 1))]).toEqual([
      ['away', 'normal'],
      ['grade', 'light'],
    ]);
    await em.nativeUpdate(RuleRow, { key: 'grade' }, { document: { weight: 'heavy' } });
    const row = await em.fork().findOneOrFail(RuleRow, { key: 'grade' });
    expect([ruleName(row), readableRule(row)]).toEqual(['grade', null]);
    expect((await ruleNames(em, 1)).get('grade')).toBe('grade');
    expect((await ruleWeights(em, 1)).get('grade')).toBe('normal');
  });

  test('that are on come in their order; a new one stands at the end of its own course', async () => {
    const draft = (id: string, status = 'on') => ruleOf({ id, status });
    const em = await open({ rules: [draft('a'), draft('b', 'paused'), draft('c')] });
    expect((await other(em, {})).position).toBe(0);
    await em.nativeUpdate(RuleRow, { key: 'a' }, { position: 9 });
    expect((await rowsOn(em.fork(), 1)).map((r) => r.key)).toEqual(['c', 'a']);
    const rows = await em.fork().find(RuleRow, { course: 1 }, { orderBy: { id: 'asc' } });
    expect(rows.map((r) => r.position)).toEqual([9, 1, 2]);
  });

  test('are read as the same object while they stay as they are, in each status', async () => {
    const em = await open();
    const [one, two] = [await em.fork().findOneOrFail(RuleRow, { key: 'away' }), await stage.rule()];
    expect(one).not.toBe(two);
    expect(ruleOfRow(one)).toBe(ruleOfRow(two));
    expect(readDocument(one.document, 1, 'paused')).toEqual(withStatus(ruleOfRow(one), 'paused'));
    expect(readDocument(one.document, 1, 'draft').when).toBe(ruleOfRow(one).when);
    expect(() => readDocument(one.document, 2, 'on')).toThrow('format 2');
    expect(readableRule({ ...one, format: 2 })).toBeNull();
  });

  test('wait from a minute after the round that was due', async () => {
    await open();
    const since = (nextRoundAt: number | null) => overdueSince({ nextRoundAt }, NOW);
    expect([since(null), since(NOW), since(NOW - 60_000), since(NOW - 60_001), since(NOW + 5)]).toEqual([
      null,
      null,
      null,
      NOW - 60_001,
      null,
    ]);
    expect(since(0)).toBe(0);
  });

  test('[R3] have earlier conditions where a version said otherwise', async () => {
    const em = await open({ rules: [ruleOf(), ruleOf({ id: 'same' }), ruleOf({ id: 'first' })] });
    const change = await changeOf();
    const edit = async (key: string, more: Record<string, unknown>) =>
      saveEdit(asTx(em), await em.findOneOrFail(RuleRow, { key }), ruleOf(more), change);
    await edit('away', { when: grade });
    await edit('away', { when: absent });
    await edit('same', { name: 'Another name' });
    const rows = await em.fork().find(RuleRow, { course: 1 });
    expect([...(await earlierConditions(em.fork(), rows))]).toEqual([
      ['away@1', ruleOf().when],
      ['away@2', ruleOf({ when: grade }).when],
    ]);
    expect(
      (
        await earlierConditions(
          em.fork(),
          rows.filter((r) => r.key === 'first'),
        )
      ).size,
    ).toBe(0);
    const versions = await em.fork().find(RuleVersionRow, {}, { orderBy: { rule: 'asc', version: 'asc' } });
    expect(versions.map((v) => [v.rule, v.version])).toEqual([
      [1, 1],
      [1, 2],
      [1, 3],
      [2, 1],
      [2, 2],
      [3, 1],
    ]);
  });
});

describe('data that is too old', () => {
  const stale = { askAbove: 1, staleHours: 24 };
  const both = ruleOf({ id: 'both', when: { any: [grade, { measure: 'daysEnrolled', is: '>=', value: 9 }] } });
  const roster = ruleOf({ id: 'roster', status: 'paused', when: { measure: 'daysEnrolled', is: '>=', value: 9 } });

  test('holds up the rules that stand on it, whatever their status, and none that is put away or cannot be read', async () => {
    const em = await open({
      guards: stale,
      rules: [
        ruleOf(),
        both,
        roster,
        ruleOf({ id: 'paused', status: 'paused' }),
        ruleOf({ id: 'gone' }),
        ruleOf({ id: 'bad' }),
      ],
    });
    await em.nativeUpdate(RuleRow, { key: 'gone' }, { archivedAt: NOW });
    await em.nativeUpdate(RuleRow, { key: 'bad' }, { document: {} });
    await other(em, { id: 'elsewhere' });
    const waiting = await rulesWaitingForData(em.fork(), NOW);
    expect([...waiting].map(([course, keys]) => [course, [...keys].sort()])).toEqual([[1, ['away', 'both', 'paused']]]);
    const course = await em.fork().findOneOrFail(CourseRow, { id: 1 });
    expect([ruleOf(), both, roster].map((r) => readsStaleSource(r, course, NOW))).toEqual([true, true, false]);

    // Told of an hour ago by the platform: nothing waits.
    await em.nativeUpdate(CourseRow, { id: 1 }, { heardAt: NOW - 3_600_000 });
    expect((await rulesWaitingForData(em.fork(), NOW)).size).toBe(0);
    const heard = await em.fork().findOneOrFail(CourseRow, { id: 1 });
    expect(readsStaleSource(ruleOf(), heard, NOW)).toBe(false);
    expect(heard.heardAt).toBe(NOW - 3_600_000);
  });

  test('of one source holds up the rules of that source alone, and a course whose rules need none waits for nothing', async () => {
    const em = await open({ guards: stale, rules: [ruleOf(), both] });
    // A file told what was done; of grades nobody told.
    await em.nativeUpdate(CourseRow, { id: 1 }, { sources: { activity: NOW } });
    expect([...(await rulesWaitingForData(em.fork(), NOW))].map(([, keys]) => [...keys])).toEqual([['both']]);
    await em.nativeDelete(RuleRow, { key: 'both' });
    expect((await rulesWaitingForData(em.fork(), NOW)).size).toBe(0);
  });

  test('is counted by the rules that are on and stand on it', async () => {
    const em = await open({ rules: [ruleOf(), both, roster, ruleOf({ id: 'bad' }), ruleOf({ id: 'away2' })] });
    await other(em, { id: 'elsewhere' });
    await em.nativeUpdate(RuleRow, { key: 'bad' }, { document: {} });
    expect(Object.fromEntries(await rulesBySource(em.fork(), 1))).toEqual({ activity: 2, grades: 1, roster: 1 });
  });
});

async function changeOf(more: Partial<RuleStatusChange> = {}): Promise<RuleStatusChange> {
  const course = await stage.services.live.get(unguarded(stage.orm), 1);
  return { course, now: NOW, by: 1, confirmed: true, outside: [], decisionsAt: () => Promise.resolve([]), ...more };
}

describe('before a rule is on', () => {
  const mentor = (email: string) => [{ kind: 'mentor', name: 'M', email }];
  const steps = [{ deliver: 'send', to: ['contact:mentor'], wording: 'gentle' }];
  const outsiders = {
    people: COURSE.people.map((p, i) => ({ ...p, contacts: mentor(i === 0 ? 'M@Home.example' : 'n@home.example') })),
  };
  const turnOn = async (em: Awaited<ReturnType<typeof open>>, more: Partial<RuleStatusChange> = {}) => {
    const row = await em.findOneOrFail(RuleRow, { key: 'away' });
    await changeStatus(asTx(em), row, 'on', await changeOf(more));
    return row;
  };
  const refusal = (work: Promise<unknown>) =>
    work.then(
      () => 'none',
      (error: { code: string; problems?: readonly object[] }) => [error.code, error.problems],
    );

  test('each address outside is named, and a yes counts whatever its case and is kept', async () => {
    const em = await open({ course: outsiders, rules: [ruleOf({ status: 'paused', steps })] });
    const problem = (address: string) => ({
      path: 'outside',
      code: 'outsideAddress',
      message: `“Away” would write about students to ${address}, outside your institution`,
    });
    expect(await refusal(turnOn(em.fork()))).toEqual([
      'outsideAddresses',
      [problem('m@home.example'), problem('n@home.example')],
    ]);
    expect(await refusal(turnOn(em.fork(), { outside: ['M@HOME.example', 'else@home.example'] }))).toEqual([
      'outsideAddresses',
      [problem('n@home.example')],
    ]);
    const row = await turnOn(em, { outside: ['M@HOME.example', 'n@home.example', 'else@home.example'] });
    expect([row.status, row.outside]).toEqual(['on', ['m@home.example', 'n@home.example']]);
    // What got its yes needs no other.
    const again = em.fork();
    const kept = await again.findOneOrFail(RuleRow, { key: 'away' });
    await changeStatus(asTx(again), kept, 'paused', await changeOf());
    expect((await turnOn(again)).outside).toEqual(['m@home.example', 'n@home.example']);
  });

  test('spells count from now on only when that was asked for, and stay as they were when nothing was', async () => {
    const em = await open({ rules: [ruleOf({ status: 'paused' })] });
    const row = await em.findOneOrFail(RuleRow, { key: 'away' });
    const from = async (newSpellsOnly?: boolean) => {
      await changeStatus(asTx(em), row, 'on', await changeOf(), newSpellsOnly);
      return ruleOfRow(row).spellsFrom;
    };
    expect([await from(true), await from(), await from(false), await from()]).toEqual([NOW, NOW, null, null]);
  });

  test('an archived rule is off: what was on is paused, a draft stays a draft', async () => {
    const em = await open({
      rules: [ruleOf(), ruleOf({ id: 'draft', status: 'draft' }), ruleOf({ id: 'off', status: 'paused' })],
    });
    const after = async (key: string) => {
      const row = await em.findOneOrFail(RuleRow, { key });
      await archive(asTx(em), row, await changeOf());
      return [row.status, row.archivedAt, row.nextRoundAt];
    };
    expect([await after('away'), await after('draft'), await after('off')]).toEqual([
      ['paused', NOW, null],
      ['draft', NOW, null],
      ['paused', NOW, null],
    ]);
    expect(await refusal(turnOn(em.fork()))).toEqual(['ruleArchived', []]);
  });

  test('a rule that is off is saved with texts that can be read, and named where they cannot', async () => {
    const em = await open({ rules: [ruleOf({ status: 'paused' })] });
    const row = await em.findOneOrFail(RuleRow, { key: 'away' });
    const save = async (wording: string) =>
      saveEdit(
        asTx(em),
        row,
        ruleOf({
          steps: [
            { deliver: 'send', to: ['student'], wording: 'gentle' },
            { deliver: 'send', to: ['student'], wording },
          ],
        }),
        await changeOf(),
      );
    await save('gentle');
    expect(row.version).toBe(2);
    expect(await refusal(save('gone'))).toMatchObject([
      'wordingBroken',
      [{ path: 'rule.steps[1].wording.wording', code: 'notInCourse' }],
    ]);
    await em.fork().nativeUpdate(WordingRow, { key: 'gentle' }, { body: '{{ student.first_name' });
    const [code, problems] = (await refusal(save('gentle'))) as [string, { path: string }[]];
    expect(code).toBe('wordingBroken');
    expect(problems.map((p) => p.path)[0]).toMatch(/^rule\.steps\[0\]\.wording\./);
  });

  test('more than the set share of the active students needs a yes: sent and held count, withheld does not', async () => {
    await open({
      guards: { askAbove: 0.5, staleHours: null },
      course: { people: [...COURSE.people.slice(0, 2), COURSE.people[3]!] },
    });
    const { course } = await changeOf();
    const reach =
      (...outcomes: string[]) =>
      () =>
        mustNotReachMany(ruleOf(), course, outcomes.map((outcome) => ({ outcome })) as never);
    expect(reach('sent', 'withheld', 'withdrawn')).not.toThrow();
    expect(reach('sent', 'held')).toThrow();
    const thrown = (() => {
      try {
        reach('sent', 'sent')();
        return null;
      } catch (error) {
        return error;
      }
    })();
    expect(thrown).toMatchObject({
      code: 'reachesMany',
      problems: [
        {
          path: 'confirmed',
          code: 'reachesMany',
          message: '“Away” would write to 2 of 2 students; more than 50% of the class needs your confirmation',
        },
      ],
    });
  });
});
