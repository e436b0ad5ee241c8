/**
 * Words as they are stored, and as the editor holds them: a text with Liquid in it becomes paragraphs, lists, and chips for
 * merge fields and conditions; and the same text again. What no chip can say is kept in a chip as it is written.
 */
export interface DocNode {
  readonly type: string;
  readonly attrs?: Readonly<Record<string, unknown>>;
  readonly text?: string;
  readonly content?: readonly DocNode[];
}

const FIELD = /^{{-?\s*([\w.]+)\s*(?:\|\s*default:\s*"([^"]*)"\s*)?-?}}$/;
const PIECES = /({{[^}]*}}|{%[^%]*%})/;

export function docOf(source: string): DocNode {
  const blocks = source
    .replace(/\r\n/g, '\n')
    .split(/\n{2,}/)
    .map(blockOf);
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
  const content = lines.flatMap((line, i) => [...(i > 0 ? [{ type: 'hardBreak' }] : []), ...inline(line)]);
  return content.length === 0 ? { type: 'paragraph' } : { type: 'paragraph', content };
}

const inline = (line: string): DocNode[] =>
  line
    .split(PIECES)
    .filter((piece) => piece !== '')
    .map((piece): DocNode => {
      if (!PIECES.test(piece)) return { type: 'text', text: piece };
      const field = FIELD.exec(piece);
      return field
        ? { type: 'field', attrs: { name: field[1], fallback: field[2] ?? null } }
        : { type: 'tag', attrs: { source: piece } };
    });

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

const inlineSource = (node: DocNode): string => (node.content ?? []).map(pieceSource).join('');

function pieceSource({ type, text, attrs }: DocNode): string {
  if (type === 'hardBreak') return '\n';
  const textAttribute = (name: string): string | null => {
    const value = attrs?.[name];
    return typeof value === 'string' ? value : null;
  };
  if (type === 'tag') return textAttribute('source') ?? '';
  if (type !== 'field') return text ?? '';
  const fallback = textAttribute('fallback');
  const name = textAttribute('name') ?? '';
  return fallback === null ? `{{ ${name} }}` : `{{ ${name} | default: "${fallback.replace(/"/g, '’')}" }}`;
}

/** A condition in words: which field it asks for, or that it ends; null for a tag of another kind. */
export function tagWords(source: string, titleOf: (field: string) => string): string | null {
  const asked = /^{%-?\s*(if|unless)\s+([\w.]+)\s*-?%}$/.exec(source);
  if (asked) return asked[1] === 'if' ? `only with: ${titleOf(asked[2]!)}` : `only without: ${titleOf(asked[2]!)}`;
  if (/^{%-?\s*else\s*-?%}$/.test(source)) return 'otherwise';
  return /^{%-?\s*end(if|unless)\s*-?%}$/.test(source) ? 'until here' : null;
}
