/** The text of a file: its encoding is found, never assumed, and what is no text is refused. */

export const ENCODINGS = ['utf-8', 'utf-16le', 'utf-16be', 'windows-1252'] as const;
export type Encoding = (typeof ENCODINGS)[number];

/** A file that cannot be read as a whole, with a sentence that says why. */
export class UnreadableFile extends Error {}

/** By its byte order mark, else strict UTF-8, else Windows-1252. Throws `UnreadableFile` for what is no text. */
export function decodeText(bytes: Uint8Array): { readonly text: string; readonly encoding: Encoding } {
  const encoding = encodingOf(bytes);
  let text: string;
  try {
    text = encoding === 'windows-1252' ? fromWindows(bytes) : new TextDecoder(encoding, { fatal: true }).decode(bytes);
  } catch {
    throw new UnreadableFile(`This file begins like ${encoding} and is damaged. Export it again.`);
  }
  if (text.includes('\0')) throw new UnreadableFile('This is no text file. Export it as CSV.');
  return { text, encoding };
}

function encodingOf(bytes: Uint8Array): Encoding {
  const [a, b, c] = bytes;
  if (a === 0xff && b === 0xfe) return 'utf-16le';
  if (a === 0xfe && b === 0xff) return 'utf-16be';
  if (a === 0xef && b === 0xbb && c === 0xbf) return 'utf-8';
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes);
    return 'utf-8';
  } catch {
    if (looksLikeUtf8(bytes))
      throw new UnreadableFile(
        'This file is damaged: some of its characters cannot be read. Export it again as UTF-8.',
      );
    return 'windows-1252';
  }
}

/** More sound sequences of several bytes than unsound ones: nobody writes those in Windows-1252 by chance. */
function looksLikeUtf8(bytes: Uint8Array): boolean {
  let sound = 0;
  let unsound = 0;
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i]!;
    if (byte < 0x80) continue;
    const more =
      byte >= 0xc2 && byte < 0xe0 ? 1 : byte >= 0xe0 && byte < 0xf0 ? 2 : byte >= 0xf0 && byte < 0xf5 ? 3 : 0;
    let n = 0;
    while (n < more && (bytes[i + 1 + n] ?? 0) >> 6 === 2) n++;
    if (more > 0 && n === more) sound++;
    else unsound++;
    i += n;
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
