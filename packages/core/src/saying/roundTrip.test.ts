/** Whatever the product prints of a rule can be typed back ([Y6]). Random rules of random courses; ZEST_SAID says how many. */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Course } from '../course/course.ts';
import type { Rule } from '../rules/rule.ts';
import { ruleSentence } from '../rules/sentence.ts';
import { anyCourse, anyRule, CRITERIA, plainRule } from '../testing/saidRules.ts';
import { say } from './say.ts';
import { saidSentence, type SaidRule } from './saidRule.ts';

const RULES = Number(process.env['ZEST_SAID'] ?? 10_000);

/** What was said on top of a rule of which nothing is said. */
const completed = (said: SaidRule): Rule =>
  ({
    when: said.when,
    audience: said.audience ?? { roles: ['student'], sections: [], except: [] },
    rhythm: { skipBreaks: false, ...said.rhythm },
    repeat: { perSpell: null, perTerm: null, gap: null, ...said.repeat },
    weight: said.weight ?? 'normal',
    spellsFrom: said.spellsFrom ?? null,
    steps: (said.steps ?? [{}]).map(({ to }) => ({ to: to ?? ['student'] })),
  }) as unknown as Rule;

/** A rule to compare; items with the same title become the first of them, as a text cannot tell them apart. */
function comparable(rule: Rule, course: Course): unknown {
  const firsts = new Map(course.items.toReversed().map((i) => [i.title, i.id]));
  const json = JSON.stringify(plainRule(rule, course), (key, value: unknown) => {
    if (key !== 'item' && key !== 'items') return value;
    const first = (id: string) => firsts.get(course.items[course.itemIndex.get(id)!]!.title);
    return Array.isArray(value) ? value.map((id) => first(id as string)) : first(value as string);
  });
  return JSON.parse(json);
}

test('[Y6] the sentence of a rule is that rule again, and so is the sentence of what was said', () => {
  const property = fc.property(
    anyCourse.chain((course) => fc.tuple(fc.constant(course), anyRule(course))),
    ([course, rule]) => {
      const text = ruleSentence(rule, course);
      const { readings, problems } = say(text, course, { criteria: CRITERIA });
      const [first] = readings;
      if (!first) throw new Error(`${text}\n${JSON.stringify(problems)}`);
      const found = readings.map((r) => comparable(completed(r), course));
      if (!found.some((f) => JSON.stringify(f) === JSON.stringify(comparable(rule, course))))
        expect([text, found[0]]).toEqual([text, comparable(rule, course)]);
      if (problems.length > 0) return;
      expect(say(saidSentence(first, course), course, { criteria: CRITERIA }).rule).toEqual(first);
    },
  );
  fc.assert(property, { numRuns: RULES, errorWithCause: false, includeErrorInReport: true } as fc.Parameters<unknown>);
}, 600_000);
