/**
 * The same rules as general-purpose rule engines would run them. They know no time, so each gets the values of the moment
 * as plain facts, read off the history before the clock starts: only their matching is measured.
 */
import { Engine, type RuleProperties } from 'json-rules-engine';
import jsonLogic, { type RulesLogic } from 'json-logic-js';
import { callKey } from '@zest-bell/core/measures';
import { groupOf, isLeaf, type Condition, type Leaf } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';

export type FactsOfStudent = Readonly<Record<string, number | boolean | null>>;

const OPERATORS: Readonly<Record<string, string>> = {
  '>=': 'greaterThanInclusive',
  '<=': 'lessThanInclusive',
  '>': 'greaterThan',
  '<': 'lessThan',
  equals: 'equal',
  differs: 'notEqual',
};

/** An unknown value must never match, as it never does in the core. */
function engineCondition(c: Condition): object {
  if (isLeaf(c)) {
    const known = { fact: callKey(c), operator: 'notEqual', value: null };
    return { all: [known, { fact: callKey(c), operator: OPERATORS[c.is], value: c.value }] };
  }
  const { kind, children } = groupOf(c);
  return { [kind === 'any' ? 'any' : 'all']: children.map(engineCondition) };
}

/** Which rules match each student, by json-rules-engine. */
export function rulesEngine(rules: readonly Rule[]): (students: readonly FactsOfStudent[]) => Promise<string[][]> {
  const engine = new Engine([], { allowUndefinedFacts: true });
  for (const rule of rules) {
    engine.addRule({ conditions: engineCondition(rule.when), event: { type: rule.id } } as RuleProperties);
  }
  return async (students) => {
    const out: string[][] = [];
    for (const facts of students) out.push((await engine.run(facts)).events.map((e) => e.type).sort());
    return out;
  };
}

const LOGIC: Readonly<Record<string, string>> = { equals: '===', differs: '!==' };

function logicOf(c: Condition): RulesLogic {
  if (isLeaf(c)) return logicOfLeaf(c);
  const { kind, children } = groupOf(c);
  return { [kind === 'any' ? 'or' : 'and']: children.map(logicOf) };
}

function logicOfLeaf(leaf: Leaf): RulesLogic {
  const value = { var: [callKey(leaf).replace(/\./g, '_')] };
  const compared = { [LOGIC[leaf.is] ?? leaf.is]: [value, leaf.value] };
  return { and: [{ '!==': [value, null] }, compared] };
}

/** Which rules match each student, by json-logic-js. */
export function logic(rules: readonly Rule[]): (students: readonly FactsOfStudent[]) => string[][] {
  const compiled = rules.map((r) => [r.id, logicOf(r.when)] as const);
  return (students) =>
    students.map((facts) =>
      compiled
        .filter(([, l]) => jsonLogic.apply(l, facts) === true)
        .map(([id]) => id)
        .sort(),
    );
}
