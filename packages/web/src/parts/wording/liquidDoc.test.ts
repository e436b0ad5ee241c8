import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { textsOf } from '@zest-bell/core/wording';
import { STARTERS } from '@zest-bell/core/starters';
import { docOf, sourceOf, tagWords } from './liquidDoc.ts';

describe('words in the editor and as they are stored', () => {
  test('fields become chips with their fallback, conditions chips of their own, lists lists', () => {
    const source =
      '{{ student.first_name | default: "Hello" }},\n\n- one {{ item.due }}\n- two\n\n{% if item.score %}x{% endif %}\ny';
    expect(docOf(source).content).toEqual([
      {
        type: 'paragraph',
        content: [
          { type: 'field', attrs: { name: 'student.first_name', fallback: 'Hello' } },
          { type: 'text', text: ',' },
        ],
      },
      {
        type: 'bulletList',
        content: [
          {
            type: 'listItem',
            content: [
              {
                type: 'paragraph',
                content: [
                  { type: 'text', text: 'one ' },
                  { type: 'field', attrs: { name: 'item.due', fallback: null } },
                ],
              },
            ],
          },
          { type: 'listItem', content: [{ type: 'paragraph', content: [{ type: 'text', text: 'two' }] }] },
        ],
      },
      {
        type: 'paragraph',
        content: [
          { type: 'tag', attrs: { source: '{% if item.score %}' } },
          { type: 'text', text: 'x' },
          { type: 'tag', attrs: { source: '{% endif %}' } },
          { type: 'hardBreak' },
          { type: 'text', text: 'y' },
        ],
      },
    ]);
    expect(sourceOf(docOf(source))).toBe(source);
  });

  test('a field that names an item or a column is a chip again when it comes back', () => {
    for (const name of [
      'link["lab-3"]',
      'due["lab-3"]',
      'column["Topic of it"]',
      "column['Topic']",
      'column["A ] b"]',
    ]) {
      for (const [source, fallback] of [
        [`{{ ${name} }}`, null],
        [`{{ ${name} | default: "none yet" }}`, 'none yet'],
      ] as const) {
        expect(docOf(source).content![0]!.content).toEqual([{ type: 'field', attrs: { name, fallback } }]);
        expect(sourceOf(docOf(source))).toBe(source);
      }
    }
  });

  test('emphasis, links and pictures are what they look like', () => {
    const source =
      '**Well *done*, {{ student.first_name }}**: *see* [the lab](https://learn.saltmarsh.example/l) ' +
      'or {{ link["lab-3"] }}, 5*3*2 ![a chart](picture:ab12)';
    const types = docOf(source).content![0]!.content!.map((n) =>
      [n.type, ...(n.marks ?? []).map((m) => m.type)].join(' '),
    );
    expect(types).toEqual([
      'text bold',
      'text bold italic',
      'text bold',
      'field bold',
      'text',
      'text italic',
      'text',
      'weblink',
      'text',
      'field',
      'text',
      'picture',
    ]);
    expect(sourceOf(docOf(source))).toBe(source);
  });

  test('blanks at the ends of emphasis stay outside of it', () => {
    const bold = { type: 'text', text: ' late ', marks: [{ type: 'bold' as const }] };
    const doc = { type: 'doc', content: [{ type: 'paragraph', content: [{ type: 'text', text: 'not' }, bold] }] };
    expect(sourceOf(doc)).toBe('not **late**');
  });

  test.each(STARTERS.flatMap((s) => s.wordings).flatMap((w) => textsOf(w).map((t) => [t.subject, t.text] as const)))(
    '%s comes back unchanged',
    (_name, text) => {
      expect(sourceOf(docOf(text))).toBe(text);
    },
  );

  test('whatever is written comes back, but for blank lines and outer blanks', () => {
    const piece = fc.constantFrom(
      'word',
      ' ',
      '- ',
      '{{ a.b }}',
      '{{ a.b | default: "x" }}',
      '{% if a.b %}',
      '{{ a | upcase }}',
      '{',
      '%}',
      '*',
      '**',
      '[a](https://b.example)',
      '![](picture:c)',
    );
    const line = fc.array(piece, { maxLength: 5 }).map((p) => p.join(''));
    fc.assert(
      fc.property(fc.array(line, { maxLength: 6 }), (lines) => {
        const once = sourceOf(docOf(lines.join('\n')));
        expect(sourceOf(docOf(once))).toBe(once);
        expect(once.replace(/\s+/g, '')).toBe(lines.join('').replace(/\s+/g, ''));
      }),
    );
  });

  test('a condition is said in words; a tag of another kind stays as it is written', () => {
    const title = (f: string) => f.toUpperCase();
    expect(tagWords('{% if a.b %}', title)).toBe('only if there is: A.B');
    expect(tagWords('{%- unless a.b -%}', title)).toBe('only if there is no: A.B');
    expect(tagWords('{% endif %}', title)).toBe('');
    expect(tagWords('{% assign x = 1 %}', title)).toBeNull();
  });
});
