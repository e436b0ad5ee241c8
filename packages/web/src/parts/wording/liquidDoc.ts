/**
 * Words as they are stored, and as the editor holds them: a text with Liquid in it becomes paragraphs, lists, emphasis, and
 * chips for merge fields, conditions, links and pictures; and the same text again. What no chip can say is kept in a chip as
 * it is written.
 */
import { TYPED_EM, TYPED_LINK, TYPED_PICTURE, TYPED_STRONG } from '@zest-bell/core/wording';

export interface Mark {
  readonly type: 'bold' | 'italic';
}

export interface DocNode {
  readonly type: string;
  readonly attrs?: Readonly<Record<string, unknown>>;
  readonly text?: string;
  readonly marks?: readonly Mark[];
  readonly content?: readonly DocNode[];
}

/** A merge field by its name, or an item or a column by what is in the brackets. */
const FIELD =
  /^{{-?\s*([\w.]+|(?:link|due|column)\[(?:"[^"\\]+"|'[^'\\]+')\])\s*(?:\|\s*default:\s*"([^"]*)"\s*)?-?}}$/;
const PICTURE = whole(TYPED_PICTURE);
const LINK = whole(TYPED_LINK);
const PIECES = new RegExp(`({{[^}]*}}|{%[^%]*%}|${inside(TYPED_PICTURE)}|${inside(TYPED_LINK)})`);

/** The pattern for a text that is nothing else. */
function whole(pattern: RegExp): RegExp {
  return new RegExp(`^${pattern.source}$`);
}

/** The pattern as a part of another one, which takes no pieces out of it. */
function inside(pattern: RegExp): string {
  return pattern.source.replace(/(?<!\\)\((?!\?)/g, '(?:');
}

export function docOf(source: string): DocNode {
  // An empty paragraph is a place to write: it stays one.
  const blocks = source
    .replace(/\r\n/g, '\n')
    .split('\n\n')
    .map((block) => blockOf(block.replace(/^\n|\n$/g, '')));
  return { type: 'doc', content: blocks };
}

function blockOf(block: string): DocNode {
  const lines = block.split('\n');
  if (block !== '' && lines.every((l) => l.startsWith('- '))) {
    const item = (line: string) => ({ type: 'listItem', content: [paragraph([line.slice(2)])] });
    return { type: 'bulletList', content: lines.map(item) };
  }
  return paragraph(lines);
}

function paragraph(lines: readonly string[]): DocNode {
  const content = lines.flatMap((line, i) => [...(i > 0 ? [{ type: 'hardBreak' }] : []), ...emphasised(line, [])]);
  return content.length === 0 ? { type: 'paragraph' } : { type: 'paragraph', content };
}

/** Bold outside, italic inside it, as core reads them. */
function emphasised(line: string, marks: readonly Mark[]): DocNode[] {
  const bold = marks.length === 0 ? TYPED_STRONG.exec(line) : null;
  if (bold) {
    return [
      ...emphasised(line.slice(0, bold.index), marks),
      ...italics(bold[1]!, [...marks, { type: 'bold' }]),
      ...emphasised(line.slice(bold.index + bold[0].length), marks),
    ];
  }
  return italics(line, marks);
}

function italics(line: string, marks: readonly Mark[]): DocNode[] {
  const em = TYPED_EM.exec(line);
  if (!em) return inline(line, marks);
  return [
    ...inline(line.slice(0, em.index), marks),
    ...inline(em[1]!, [...marks, { type: 'italic' }]),
    ...italics(line.slice(em.index + em[0].length), marks),
  ];
}

const inline = (line: string, marks: readonly Mark[]): DocNode[] =>
  line
    .split(PIECES)
    .filter((piece) => piece !== '')
    .map((piece): DocNode => {
      const node = pieceOf(piece);
      return marks.length > 0 ? { ...node, marks } : node;
    });

function pieceOf(piece: string): DocNode {
  if (!PIECES.test(piece)) return { type: 'text', text: piece };
  const picture = PICTURE.exec(piece);
  if (picture) return { type: 'picture', attrs: { alt: picture[1], file: picture[2] } };
  const link = LINK.exec(piece);
  if (link) return { type: 'weblink', attrs: { words: link[1], url: link[2] } };
  const field = FIELD.exec(piece);
  return field
    ? { type: 'field', attrs: { name: field[1], fallback: field[2] ?? null } }
    : { type: 'tag', attrs: { source: piece } };
}

export function sourceOf(doc: DocNode): string {
  return (doc.content ?? [])
    .map(sourceOfBlock)
    .join('\n\n')
    .replace(/\n{3,}/g, '\n\n')
    .trim();
}

function sourceOfBlock(block: DocNode): string {
  if (block.type !== 'bulletList') return inlineSource(block);
  const items = (block.content ?? []).map((item) => (item.content ?? []).map(inlineSource).join(' '));
  return items.map((line) => `- ${line.replace(/\n/g, ' ')}`).join('\n');
}

const isA = (node: DocNode, type: Mark['type']): boolean => node.marks?.some((m) => m.type === type) ?? false;

/** Runs of pieces that are emphasised alike are wrapped together; blanks at their ends stay outside. */
function inlineSource(node: DocNode): string {
  const runs = runsOf(node.content ?? [], (piece) => isA(piece, 'bold'));
  return runs.map(({ yes, pieces }) => wrapped(italicSource(pieces), yes ? '**' : '')).join('');
}

const italicSource = (pieces: readonly DocNode[]): string =>
  runsOf(pieces, (piece) => isA(piece, 'italic'))
    .map(({ yes, pieces: run }) => wrapped(run.map(pieceSource).join(''), yes ? '*' : ''))
    .join('');

function runsOf(pieces: readonly DocNode[], is: (piece: DocNode) => boolean): { yes: boolean; pieces: DocNode[] }[] {
  const runs: { yes: boolean; pieces: DocNode[] }[] = [];
  for (const piece of pieces) {
    // A line's emphasis ends with the line.
    const yes = piece.type !== 'hardBreak' && is(piece);
    const last = runs.at(-1);
    if (last?.yes === yes) last.pieces.push(piece);
    else runs.push({ yes, pieces: [piece] });
  }
  return runs;
}

function wrapped(source: string, sign: string): string {
  const [, before, words, after] = /^(\s*)([\s\S]*?)(\s*)$/.exec(source)!;
  return sign === '' || words === '' ? source : `${before}${sign}${words}${sign}${after}`;
}

function pieceSource({ type, text, attrs }: DocNode): string {
  if (type === 'hardBreak') return '\n';
  const textAttribute = (name: string): string | null => {
    const value = attrs?.[name];
    return typeof value === 'string' ? value : null;
  };
  if (type === 'tag') return textAttribute('source') ?? '';
  if (type === 'weblink') {
    return `[${(textAttribute('words') ?? '').replace(/[[\]\n]/g, ' ')}](${textAttribute('url') ?? ''})`;
  }
  if (type === 'picture') {
    return `![${(textAttribute('alt') ?? '').replace(/[[\]\n]/g, ' ')}](picture:${textAttribute('file') ?? ''})`;
  }
  if (type !== 'field') return text ?? '';
  const fallback = textAttribute('fallback');
  const name = textAttribute('name') ?? '';
  return fallback === null ? `{{ ${name} }}` : `{{ ${name} | default: "${fallback.replace(/"/g, '’')}" }}`;
}

/** Whether a tag begins a part that only some readers get, goes on with what the others get, or ends it; null for another. */
export function partOf(source: string): 'begins' | 'otherwise' | 'ends' | null {
  if (/^{%-?\s*(if|unless)\b/.test(source)) return 'begins';
  if (/^{%-?\s*(else|elsif)\b/.test(source)) return 'otherwise';
  return /^{%-?\s*end(if|unless)\b/.test(source) ? 'ends' : null;
}

/** A condition in words: which field it asks for, or that it ends; null for a tag of another kind. */
export function tagWords(source: string, titleOf: (field: string) => string): string | null {
  const asked = /^{%-?\s*(if|unless)\s+([\w.]+)\s*-?%}$/.exec(source);
  if (asked)
    return asked[1] === 'if' ? `only if there is: ${titleOf(asked[2]!)}` : `only if there is no: ${titleOf(asked[2]!)}`;
  if (/^{%-?\s*else\s*-?%}$/.test(source)) return 'otherwise';
  return /^{%-?\s*end(if|unless)\s*-?%}$/.test(source) ? '' : null;
}
