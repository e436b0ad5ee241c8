/** JSON from outside, parsed only as deeply as any file that is taken here is nested. */
import { UnreadableFile } from './text.ts';

/** Statements and scenario files are nested about ten deep. */
const DEEPEST = 200;

/** Throws `UnreadableFile` for a text that is nested too deeply, and `SyntaxError` for one that is no JSON. */
export function parseJson(text: string): unknown {
  if (isTooDeep(text)) throw new UnreadableFile('This JSON is nested too deeply. Export it again.');
  return JSON.parse(text) as unknown;
}

const [QUOTE, BACKSLASH, LIST, LIST_END, OBJECT, OBJECT_END] = [0x22, 0x5c, 0x5b, 0x5d, 0x7b, 0x7d];

function isTooDeep(text: string): boolean {
  let depth = 0;
  let isInString = false;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (isInString) {
      if (code === BACKSLASH) i++;
      else if (code === QUOTE) isInString = false;
    } else if (code === QUOTE) isInString = true;
    else if (code === LIST || code === OBJECT) {
      if (++depth > DEEPEST) return true;
    } else if (code === LIST_END || code === OBJECT_END) depth--;
  }
  return false;
}
