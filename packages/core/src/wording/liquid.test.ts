import { describe, expect, test } from '@jest/globals';
import type { Problem } from '../problem/problem.ts';
import { at, factsOf, person } from '../testing/build.ts';
import { parseLiquid, renderLiquid } from './liquid.ts';
import { compileWording } from './render.ts';
import { usesOf } from './uses.ts';

const parse = (source: string) => {
  const problems: Problem[] = [];
  return { template: parseLiquid(source, 'text', problems), problems };
};
const render = (source: string, values: object = {}) => {
  const { template, problems } = parse(source);
  if (!template) throw new Error(JSON.stringify(problems));
  return renderLiquid(template, values, 'text');
};

describe('a template reaches nothing outside itself', () => {
  test.each(['include', 'render', 'layout', 'block', 'liquid', 'echo', 'for', 'tablerow', 'cycle'])(
    '“%s” is refused when it is written',
    (tag) => {
      const { template, problems } = parse(`One\n{% ${tag} "package.json" %}`);
      expect(template).toBeNull();
      expect(problems).toEqual([
        { path: 'text', code: 'liquid', message: `Line 2: “${tag}” is not an instruction that a text can use` },
      ]);
    },
  );

  test('no subject, no text of a third party and no letter name reads a file either', () => {
    const file = '{% render "package.json" %}';
    const base = { id: 'w', name: 'W', purpose: 'support', subject: 'S', text: 'T' };
    for (const [draft, path] of [
      [{ ...base, subject: file }, 'subject'],
      [{ ...base, text: file }, 'text'],
      [{ ...base, variants: [{ subject: 'S', text: file }] }, 'variants[0].text'],
      [{ ...base, copies: [{ to: 'anyone', subject: 'S', text: file }] }, 'copies[0].text'],
      [{ ...base, letter: { page: 'A4', fileName: file } }, 'letter.fileName'],
    ] as const) {
      const compiled = compileWording(draft);
      expect(!compiled.ok && compiled.problems.map((p) => p.path)).toEqual([path]);
    }
  });

  test('values are read as data: no property of the language comes through', () => {
    expect(render('{{ a.constructor }}{{ a.toString }}{{ a.__proto__ }}', { a: {} })).toEqual({ ok: true, text: '' });
  });
});

describe('what a template may take is bounded', () => {
  test('a value that doubles itself is stopped, as a problem at its line', () => {
    const doubling = `{% assign a = "aaaaaaaaaa" %}\n${'{% assign a = a | append: a %}'.repeat(40)}{{ a }}`;
    expect(render(doubling)).toEqual({
      ok: false,
      problem: {
        path: 'text',
        code: 'liquidRender',
        message: 'Line 2: This text takes too long or grows too large to be written',
      },
    });
  });

  test('a template longer than any text is refused', () => {
    expect(parse('{{ student.first_name }}'.repeat(3000)).problems[0]!.message).toBe('This text is too long');
  });
});

describe('a template that cannot be made of the values', () => {
  test.each(['{{ name | append }}', '{{ name | append: "%" | url_decode }}'])(
    '%s is a problem, not a throw',
    (source) => {
      expect(render(source, { name: 'Ada' })).toMatchObject({ ok: false, problem: { path: 'text' } });
    },
  );

  test('is told at its own text of the wording', () => {
    const compiled = compileWording({
      id: 'w',
      name: 'W',
      purpose: 'support',
      subject: 'S',
      text: 'Fine',
      variants: [{ subject: 'S', text: '{{ student.first_name | append }}' }],
    });
    if (!compiled.ok) throw new Error('it parses');
    const context = {
      facts: factsOf({ people: [person('p1')] }),
      person: 0,
      sender: { name: '', signature: '', officeHours: '' },
      about: { item: null, calls: [] },
      at: at('2026-09-20T09:30'),
    };
    expect(compiled.value.render(context, 0).ok).toBe(true);
    const second = compiled.value.render(context, 1);
    expect(!second.ok && second.problems.map((p) => p.path)).toEqual(['variants[0].text']);
  });
});

test.each([
  ['{% if a %}x', 'Line 1: An instruction is opened here and never ended'],
  ['one\ntwo {{ a', 'Line 2: A field is opened here with two braces and never closed'],
  ['{{ a | shout }}', 'Line 1: “shout” is not a filter that a text can use'],
  ['{% if %}x{% endif %}', 'Line 1: This part cannot be read. Check its braces, quotation marks, and filters'],
])('the problem of %j has a place and a plain sentence', (source, message) => {
  expect(parse(source).problems).toEqual([{ path: 'text', code: 'liquid', message }]);
});

describe('a field is written bare', () => {
  const bare = (source: string) =>
    usesOf(parse(source).template!.templates)
      .filter((use) => use.bare)
      .map((use) => use.field);

  test('unless it has a default, with any quotation marks, or stands under a condition on itself', () => {
    expect(
      bare('{{ a.b }} {{ a.c | default: "x" }} {{ a.d | default: \'x\' }} {{ a.e | upcase | default: "x" }}'),
    ).toEqual(['a.b']);
    expect(bare('{% if a.b %}{{ a.b }}{% else %}{{ a.b }}{% endif %}')).toEqual(['a.b']);
    expect(bare('{% if a.b == blank %}none{% else %}{{ a.b }}{% endif %}')).toEqual([]);
    expect(bare('{% unless a.b == blank %}{{ a.b }}{% endunless %}')).toEqual([]);
    expect(bare('{% case a.b %}{% when "x" %}{{ a.b }}{% else %}{{ a.c }}{% endcase %}')).toEqual(['a.c']);
  });

  test('a condition excuses the uses within it and no others', () => {
    expect(bare('{% if a.b %}{{ a.b }}{% endif %} {{ a.b }}')).toEqual(['a.b']);
    expect(bare('{% if a.c %}{{ a.b }}{% endif %}')).toEqual(['a.b']);
  });
});
