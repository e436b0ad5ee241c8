import { describe, expect, test } from '@jest/globals';
import { blocksOf, htmlOf, inOneLine, linkMark, markTyped, picturesIn, textOf, withoutMarks } from './markup.ts';

const html = (source: string) => htmlOf(blocksOf(markTyped(source)));
const text = (source: string) => textOf(blocksOf(markTyped(source)));

describe('the same text as HTML and as plain text', () => {
  test('has paragraphs, line breaks, lists and addresses as links', () => {
    const source = 'One\ntwo\n\n- a\n- b\n\nSee https://saltmarsh.example/lab.';
    expect(html(source)).toBe(
      '<p>One<br>two</p>\n<ul><li>a</li><li>b</li></ul>\n' +
        '<p>See <a href="https://saltmarsh.example/lab">https://saltmarsh.example/lab</a>.</p>',
    );
    expect(text(source)).toBe(source);
  });

  test('a list may follow its introduction without a blank line', () => {
    expect(html('Still open:\n- a\n- b\nThat is all.')).toBe(
      '<p>Still open:</p>\n<ul><li>a</li><li>b</li></ul>\n<p>That is all.</p>',
    );
  });

  test('shows links by their words, and in plain text with their address', () => {
    const source =
      'Read [the syllabus](https://learn.saltmarsh.example/s?a=1&b=2) or [write](mailto:r@saltmarsh.example).';
    expect(html(source)).toContain('<a href="https://learn.saltmarsh.example/s?a=1&#38;b=2">the syllabus</a>');
    expect(text(source)).toBe(
      'Read the syllabus (https://learn.saltmarsh.example/s?a=1&b=2) or write (r@saltmarsh.example).',
    );
  });

  test('has emphasis, and leaves lone stars as they are', () => {
    expect(html('**Well done**, *really*: 5 * 3 * 2, 5*3*2')).toBe(
      '<p><strong>Well done</strong>, <em>really</em>: 5 * 3 * 2, 5*3*2</p>',
    );
    expect(text('**Well done**, *really*')).toBe('Well done, really');
    expect(html('***both*** and **so *it* is**')).toBe(
      '<p><strong><em>both</em></strong> and <strong>so </strong><strong><em>it</em></strong><strong> is</strong></p>',
    );
  });

  test('shows pictures from their files, with words for who cannot see them', () => {
    const source = '![A chart of the bay](picture:ab12)';
    expect(picturesIn(source)).toEqual(['ab12']);
    expect(html(source)).toContain('<img src="cid:ab12" alt="A chart of the bay"');
    expect(text(source)).toBe('[Picture: A chart of the bay]');
  });
});

describe('what a value says', () => {
  test('makes no markup: neither tags nor links', () => {
    const value = withoutMarks('\uE000click\uE001https://evil.example\uE002 <b>');
    expect(htmlOf(blocksOf(`Dear ${value}`))).toBe(
      '<p>Dear clickhttps://evil.example &#60;b&#62;</p>'.replace(
        'clickhttps://evil.example',
        'click<a href="https://evil.example">https://evil.example</a>',
      ),
    );
    expect(htmlOf(blocksOf('[x](https://evil.example)'))).not.toContain('>x</a>');
  });

  test('is a link only to the web or a mailbox', () => {
    expect(linkMark('Lab 3', 'javascript:alert(1)')).toBe('Lab 3');
    expect(linkMark('Lab 3', null)).toBe('Lab 3');
    expect(html('[x](javascript:alert(1))')).not.toContain('<a');
    expect(htmlOf(blocksOf(linkMark('L', 'https://a.example/"onclick="')))).not.toContain('onclick="');
  });
});

test('a subject is one line without links', () => {
  expect(inOneLine(`${linkMark('Lab 3', 'https://a.example')}\nBcc: x`)).toBe('Lab 3 Bcc: x');
});
