/** The text of a file: its encoding is found, never assumed, and what is no text is refused. */

export const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252'] as const;
export type Encoding = (typeof ENCODINGS)[number];

/** A file that cannot be read as a whole, with a sentence that says why. */
export class UnreadableFile extends Error {}

/** The bytes of a file, wherever they lie: in memory, or on a disk of which a piece at a time is read. */
export interface Bytes {
  readonly size: number;
  /** From a place up to another one, or to the end. */
  read(from: number, to: number): Uint8Array;
}

export const bytesOf = (bytes: Uint8Array): Bytes => ({
  size: bytes.length,
  read: (from, to) => bytes.subarray(from, to),
});

/** Bytes that are read at once. */
const PIECE = 1 << 18;

function* piecesOf(bytes: Bytes): Generator<Uint8Array> {
  for (let at = 0; at < bytes.size; at += PIECE) yield bytes.read(at, at + PIECE);
}

/** A text that can be walked through again and again, a piece at a time. */
export interface TextPieces {
  readonly encoding: Encoding;
  /** Without a byte order mark. Throws `UnreadableFile` at what is no text. */
  readonly pieces: () => Generator<string>;
}

/** By its byte order mark, else strict UTF-8, else Windows-1252. Throws `UnreadableFile` for what is no text. */
export function textOf(bytes: Bytes): TextPieces {
  const encoding = encodingOf(bytes);
  return { encoding, pieces: () => decoded(bytes, encoding) };
}

function* decoded(bytes: Bytes, encoding: Encoding): Generator<string> {
  const decoder = encoding === 'windows-1252' ? null : new TextDecoder(encoding, { fatal: true });
  const decode = (piece: Uint8Array | null): string => {
    if (decoder === null) return piece === null ? '' : fromWindows(piece);
    try {
      return piece === null ? decoder.decode() : decoder.decode(piece, { stream: true });
    } catch {
      throw new UnreadableFile(`This file begins like ${encoding} and is damaged. Export it again.`);
    }
  };
  for (const piece of piecesOf(bytes)) {
    const text = decode(piece);
    if (text.includes('\0')) throw new UnreadableFile('This is no text file. Export it as CSV.');
    yield text;
  }
  const rest = decode(null);
  if (rest !== '') yield rest;
}

/** The whole text of bytes in memory. Throws `UnreadableFile`. */
export function decodeText(bytes: Uint8Array): { readonly text: string; readonly encoding: Encoding } {
  const { encoding, pieces } = textOf(bytesOf(bytes));
  return { text: [...pieces()].join(''), encoding };
}

function encodingOf(bytes: Bytes): Encoding {
  const [a, b, c] = bytes.read(0, 3);
  if (a === 0xff && b === 0xfe) return 'utf-16le';
  if (a === 0xfe && b === 0xff) return 'utf-16be';
  if (a === 0xef && b === 0xbb && c === 0xbf) return 'utf-8';
  try {
    const strict = new TextDecoder('utf-8', { fatal: true });
    for (const piece of piecesOf(bytes)) strict.decode(piece, { stream: true });
    strict.decode();
    return 'utf-8';
  } catch {
    if (looksLikeUtf8(bytes))
      throw new UnreadableFile(
        'This file is damaged: some of its characters cannot be read. Export it again as UTF-8.',
      );
    return 'windows-1252';
  }
}

/** The longest sequence of UTF-8, in bytes. */
const LONGEST_SEQUENCE = 4;

/** More sound sequences of several bytes than unsound ones: nobody writes those in Windows-1252 by chance. */
function looksLikeUtf8(bytes: Bytes): boolean {
  let sound = 0;
  let unsound = 0;
  for (let from = 0; from < bytes.size;) {
    const piece = bytes.read(from, from + PIECE);
    // A sequence that a piece cuts is read with the next one.
    const isLast = from + piece.length >= bytes.size;
    const end = isLast ? piece.length : piece.length - LONGEST_SEQUENCE;
    let i = 0;
    for (; i < end; i++) {
      const byte = piece[i]!;
      if (byte < 0x80) continue;
      const more =
        byte >= 0xc2 && byte < 0xe0 ? 1 : byte >= 0xe0 && byte < 0xf0 ? 2 : byte >= 0xf0 && byte < 0xf5 ? 3 : 0;
      let n = 0;
      while (n < more && (piece[i + 1 + n] ?? 0) >> 6 === 2) n++;
      if (more > 0 && n === more) sound++;
      else unsound++;
      i += n;
    }
    from += i;
  }
  return sound > unsound;
}

/** What Windows-1252 has where Latin-1 has control characters (bytes 0x80 to 0x9F; WHATWG Encoding, index windows-1252). */
const WINDOWS = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';

/** By hand: some runtimes take Windows-1252 for Latin-1. */
function fromWindows(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) text += byte >= 0x80 && byte < 0xa0 ? WINDOWS[byte - 0x80] : String.fromCharCode(byte);
  return text;
}
