/** A template as one reads it aloud in a list: fields by their names, without markup and conditions. */

/** Last words of fields that say little without what they belong to. */
const BARE = new Set(['title', 'code', 'name', 'link', 'due', 'section']);

const fieldWords = (of: string, name: string): string =>
  `‹${(BARE.has(name) ? `${of} ${name}` : name).replaceAll('_', ' ')}›`;

export const spoken = (text: string): string =>
  text
    .replace(/{%[^%]*%}/g, '')
    .replace(/{{\s*(\w+)\.(\w+)[^}]*}}/g, (_, of: string, name: string) => fieldWords(of, name))
    .replace(/{{[^}]*}}/g, '‹…›')
    .replace(/!\[[^\]]*\]\([^)]*\)/g, '(picture)')
    .replace(/\[([^\]]*)\]\([^)]*\)/g, '$1')
    .replace(/\*\*|__/g, '')
    .replace(/\s+/g, ' ')
    .trim();
