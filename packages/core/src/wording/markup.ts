/**
 * What a message is made of between the words as written and the mail: links, emphasis and pictures stand in the text as
 * private marks, which no value can contain, so that a name or a title never becomes markup. From the blocks come the
 * plain text, the HTML, the letter and what the preview shows.
 */

export type Inline =
  | { readonly kind: 'text'; readonly text: string; readonly strong?: true; readonly em?: true }
  | { readonly kind: 'link'; readonly text: string; readonly url: string }
  | { readonly kind: 'picture'; readonly file: string; readonly alt: string };

/** Inline pieces of one line. */
export type MarkupLine = readonly Inline[];

export type Block =
  | { readonly kind: 'paragraph'; readonly lines: readonly MarkupLine[] }
  | { readonly kind: 'list'; readonly items: readonly MarkupLine[] };

// Private-use characters: no keyboard types them, and `withoutMarks` takes them out of every value.
const [LINK, MIDDLE, END, STRONG, EM, PICTURE] = ['\uE000', '\uE001', '\uE002', '\uE003', '\uE004', '\uE005'] as const;
const MARKS = /[\uE000-\uE005]/g;

export const withoutMarks = (value: string): string => value.replace(MARKS, '');

const ADDRESS = /^(?:https?:\/\/|mailto:)[^\s<>"]+$/;
/** An address of the web or of a mailbox, as a typed link can hold it: brackets would end it. */
export const isTypedAddress = (url: string): boolean => ADDRESS.test(url) && !/[()]/.test(url);

/** A link as it is in marked text; without an address, or with one of another kind, its words alone. */
export function linkMark(text: string, url: string | null | undefined): string {
  const words = withoutMarks(text);
  return url && ADDRESS.test(url) ? `${LINK}${words}${MIDDLE}${withoutMarks(url)}${END}` : words;
}

/** A picture, a link, strong words and emphasis as they are typed; each with what is in it. */
export const TYPED_PICTURE = /!\[([^[\]\n]*)\]\(picture:([\w-]+)\)/;
export const TYPED_LINK = /\[([^[\]\n]+)\]\(((?:https?:\/\/|mailto:)[^\s()<>"]+)\)/;
export const TYPED_STRONG = /\*\*(?=\S)((?:[^*\n]|\*(?!\*))*?[^\s*]\*?)\*\*(?!\*)/;
// A star between letters or figures is a star.
export const TYPED_EM = /(?<![\w*])\*(?=\S)([^*\n]*[^*\s])\*(?![\w*])/;
const all = (pattern: RegExp): RegExp => new RegExp(pattern, 'g');

/** The pictures that a text shows, as files. */
export const picturesIn = (source: string): string[] => [...source.matchAll(all(TYPED_PICTURE))].map((m) => m[2]!);

/** Turns `[words](https://…)`, `![alt](picture:file)`, `**strong**` and `*emphasis*`, as written, into marks. */
export const markTyped = (source: string): string =>
  withoutMarks(source)
    .replace(all(TYPED_PICTURE), (_, alt: string, file: string) => `${PICTURE}${alt}${MIDDLE}${file}${END}`)
    .replace(all(TYPED_LINK), (_, words: string, url: string) => `${LINK}${words}${MIDDLE}${url}${END}`)
    .replace(all(TYPED_STRONG), `${STRONG}$1${STRONG}`)
    .replace(all(TYPED_EM), `${EM}$1${EM}`);

/** Paragraphs at blank lines; lines in succession that begin with "- " are a list. */
export function blocksOf(marked: string): Block[] {
  return marked.split(/\n\s*\n/).flatMap((part): Block[] => {
    const blocks: Block[] = [];
    for (const line of part.split('\n')) {
      const last = blocks.at(-1);
      if (line.startsWith('- ')) {
        const item = lineOf(line.slice(2));
        if (last?.kind === 'list') (last.items as MarkupLine[]).push(item);
        else blocks.push({ kind: 'list', items: [item] });
      } else if (line.trim() !== '') {
        if (last?.kind === 'paragraph') (last.lines as MarkupLine[]).push(lineOf(line));
        else blocks.push({ kind: 'paragraph', lines: [lineOf(line)] });
      }
    }
    return blocks;
  });
}

const PIECE =
  /\uE000([^\uE000-\uE005]*)\uE001([^\uE000-\uE005]*)\uE002|\uE005([^\uE000-\uE005]*)\uE001([^\uE000-\uE005]*)\uE002|([\uE003\uE004])/;
const PLAIN_ADDRESS = /(https?:\/\/[^\s<>&]+[^\s<>&.,;:!?)])/;

function lineOf(line: string): MarkupLine {
  const out: Inline[] = [];
  let strong = false;
  let em = false;
  const say = (text: string) => {
    for (const [i, piece] of text.split(PLAIN_ADDRESS).entries()) {
      if (piece === '') continue;
      if (i % 2 === 1) out.push({ kind: 'link', text: piece, url: piece });
      else out.push({ kind: 'text', text: piece, ...(strong ? { strong } : {}), ...(em ? { em } : {}) });
    }
  };
  let rest = line;
  for (let m = PIECE.exec(rest); m; m = PIECE.exec(rest)) {
    say(withoutMarks(rest.slice(0, m.index)));
    rest = rest.slice(m.index + m[0].length);
    if (m[1] !== undefined) out.push({ kind: 'link', text: m[1], url: m[2]! });
    else if (m[3] !== undefined) out.push({ kind: 'picture', alt: m[3], file: m[4]! });
    else if (m[5] === STRONG) strong = !strong;
    else em = !em;
  }
  say(withoutMarks(rest));
  return out;
}

/** On one line, links by their words alone: what a subject or a file name shows of a text. */
export const inOneLine = (marked: string): string =>
  withoutMarks(marked.replace(new RegExp(`${MIDDLE}[^${MIDDLE}${END}]*${END}`, 'g'), ''))
    .replace(/\s+/g, ' ')
    .trim();

export const textOf = (blocks: readonly Block[]): string => blocks.map(blockText).join('\n\n');

const blockText = (block: Block): string =>
  block.kind === 'list' ? block.items.map((l) => `- ${lineText(l)}`).join('\n') : block.lines.map(lineText).join('\n');

/** A line as plain text. */
export const lineText = (line: MarkupLine): string => line.map(inlineText).join('').trimEnd();

function inlineText(piece: Inline): string {
  if (piece.kind === 'text') return piece.text;
  if (piece.kind === 'picture') return piece.alt ? `[Picture: ${piece.alt}]` : '[Picture]';
  const url = piece.url.replace(/^mailto:/, '');
  return piece.text === url || piece.text === piece.url ? piece.text : `${piece.text} (${url})`;
}

/** Text made safe to stand in a page or a message's HTML. */
export const escapeHtml = (s: string): string => s.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** `source`: the address at which a picture's file is shown. */
export function htmlOf(blocks: readonly Block[], source: (file: string) => string = (file) => `cid:${file}`): string {
  const line = (pieces: MarkupLine) => pieces.map((piece) => inlineHtml(piece, source)).join('');
  return blocks
    .map((block) =>
      block.kind === 'list'
        ? `<ul>${block.items.map((l) => `<li>${line(l)}</li>`).join('')}</ul>`
        : `<p>${block.lines.map(line).join('<br>')}</p>`,
    )
    .join('\n');
}

function inlineHtml(piece: Inline, source: (file: string) => string): string {
  if (piece.kind === 'picture') {
    const alt = escapeHtml(piece.alt);
    return `<img src="${escapeHtml(source(piece.file))}" alt="${alt}" style="max-width:100%;height:auto">`;
  }
  if (piece.kind === 'link') return `<a href="${escapeHtml(piece.url)}">${escapeHtml(piece.text)}</a>`;
  const text = escapeHtml(piece.text);
  const em = piece.em ? `<em>${text}</em>` : text;
  return piece.strong ? `<strong>${em}</strong>` : em;
}
