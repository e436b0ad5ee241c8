import { describe, expect, test } from '@jest/globals';
import { courseOf, item, person, ruleOf } from '../testing/build.ts';
import { parseRulesFile, rulesFileOf } from './rulesFile.ts';

describe('rules and wordings as a file', () => {
  const wording = { id: 'gentle', name: 'Gentle', purpose: 'support', subject: 'Hi', text: 'Hello' } as const;
  const course = courseOf({ people: [person('p1')], items: [item('q1', { points: 20, excused: ['p1'] })] });
  const rules = [ruleOf({ audience: { roles: ['student'], except: ['p1'] } })];

  test('is read as what was decided, with nobody in it', () => {
    const json: unknown = JSON.parse(JSON.stringify(rulesFileOf({ course, rules, wordings: [wording], files: [] })));
    expect(JSON.stringify(json)).not.toContain('p1');
    const parsed = parseRulesFile(json);
    if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
    expect(parsed.value.rules).toEqual([{ ...rules[0], audience: { ...rules[0]!.audience, except: [] } }]);
    expect(parsed.value.course).toMatchObject({ code: 'NAV 120', people: [], marks: { mastery: 80 } });
    expect(parsed.value.course.items[0]).toMatchObject({ id: 'q1', excused: [] });
    expect(parsed.value.wordings).toMatchObject([wording]);
  });

  test('says everything that does not fit, at its path', () => {
    const json = { ...rulesFileOf({ course, rules: [...rules, ...rules], wordings: [], files: [] }), more: 1 };
    const problems = (value: unknown) => {
      const parsed = parseRulesFile(value);
      return parsed.ok ? [] : parsed.problems.map((p) => [p.path, p.code]);
    };
    expect(problems({ format: 'other' }).map(([path]) => path)).toContain('format');
    expect(problems(json)).toContainEqual(['more', expect.any(String)]);
    const { more: _more, ...plain } = JSON.parse(JSON.stringify(json)) as Record<string, unknown>;
    expect(problems(plain)).toEqual([
      ['rules[1].id', 'sameId'],
      ['rules[0].steps[0].wording', 'notInFile'],
      ['rules[1].steps[0].wording', 'notInFile'],
    ]);
    expect(problems(null).length).toBeGreaterThan(0);
  });
});
