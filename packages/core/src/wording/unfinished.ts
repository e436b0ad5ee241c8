/** Words of a text after which somebody meant to go on: they are asked about before it is sent. */

/** In square brackets, and no link, picture or ticked box. */
const BRACKETS = /\[(?=[^\]]*\p{L}{2})[^\][\n]{2,80}\](?![([:])/gu;
const REMINDERS = /\b(?:TODO|TBD|FIXME|XXX+)\b|\blorem ipsum\b|_{3,}/gu;
/** No sentence ends with these: common practice, no source. */
const HANGING = new Set('a an and because but if my or our the their your'.split(' '));
/** Words that are shown of a sentence that breaks off. */
const SHOWN = 5;
/** Parts that are shown. */
const MOST_PARTS = 5;

/** Of a sign that would mean something else without it. */
const ESCAPES = /\\(?=[\p{P}\p{S}])/gu;
const FIELDS = /\{\{.*?\}\}|\{%.*?%\}/gsu;

/** The last words of each paragraph that breaks off. */
function broken(text: string): string[] {
  return text.split(/\n\s*\n/u).flatMap((paragraph) => {
    const words = paragraph.trim().split(/\s+/u);
    return words.length > 1 && HANGING.has(words.at(-1)!.toLowerCase()) ? [`${words.slice(-SHOWN).join(' ')} …`] : [];
  });
}

/** Finds the parts of a subject or a text that look unfinished, without duplicates. */
export function unfinishedParts(text: string): readonly string[] {
  // A field represents what it becomes.
  const plain = text.replace(FIELDS, ' … ').replace(ESCAPES, '');
  const found = [...plain.matchAll(BRACKETS), ...plain.matchAll(REMINDERS)].map(([part]) => part);
  return [...new Set([...found, ...broken(plain)])].slice(0, MOST_PARTS);
}
