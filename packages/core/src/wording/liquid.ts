/**
 * Liquid as wordings may use it. A wording is written by a person, or comes in a file from elsewhere, so it is taken for
 * hostile: it reaches no file and no other template, it has no loops, and what it may take of time and memory is bounded.
 */
import { Liquid, type Template } from 'liquidjs';
import type { Problem } from '../problem/problem.ts';

/** Instructions that read or write nothing outside the text. Loops are left out: no merge field is a list. */
const TAGS: ReadonlySet<string> = new Set([
  'if',
  'unless',
  'elsif',
  'else',
  'case',
  'when',
  'assign',
  'capture',
  'comment',
  'raw',
  '#',
]);

/** Characters of one template, its marks included: a text has 20,000 at most. */
const LONGEST_TEMPLATE = 60_000;
/** In the library's own units, about a character each. What a text may grow to by joining values. */
const MOST_MEMORY = 200_000;
/** A guard behind the others, in ms: a text takes well under one, and a claim of messages waits for twenty. */
const LONGEST_RENDER = 500;

const engine = new Liquid({
  strictFilters: true,
  strictVariables: false,
  ownPropertyOnly: true,
  parseLimit: LONGEST_TEMPLATE,
  renderLimit: LONGEST_RENDER,
  memoryLimit: MOST_MEMORY,
  // An empty set of templates in place of the file system.
  templates: {},
});
for (const tag of Object.keys(engine.tags)) if (!TAGS.has(tag)) delete engine.tags[tag];

export interface LiquidTemplate {
  readonly templates: readonly Template[];
  /** The full names of the values it reads: `student.first_name`. */
  readonly variables: readonly string[];
}

/** Parses a template; each error becomes a problem at `path`, with its line and a plain sentence. */
export function parseLiquid(source: string, path: string, problems: Problem[]): LiquidTemplate | null {
  try {
    const templates = engine.parse(source);
    return { templates, variables: engine.globalFullVariablesSync(templates) };
  } catch (error) {
    problems.push({ path, code: 'liquid', message: sentenceOf(error) });
    return null;
  }
}

/** The text of a template, or why it cannot be made of these values. */
export function renderLiquid(
  { templates }: LiquidTemplate,
  values: object,
  path: string,
): { readonly ok: true; readonly text: string } | { readonly ok: false; readonly problem: Problem } {
  try {
    return { ok: true, text: String(engine.renderSync([...templates], values)) };
  } catch (error) {
    return { ok: false, problem: { path, code: 'liquidRender', message: sentenceOf(error) } };
  }
}

/** The library's messages, and what they mean to somebody who wrote a message. The first that fits is used. */
const SENTENCES: readonly (readonly [RegExp, (found: RegExpMatchArray) => string])[] = [
  [/tag "([^"]*)" not found/, ([, tag]) => `“${tag}” is not an instruction that a text can use`],
  [/undefined filter: (\w+)/, ([, filter]) => `“${filter}” is not a filter that a text can use`],
  [/tag .*?(?:if|unless|case|capture|comment|raw).* not closed/, () => 'An instruction is opened here and never ended'],
  [/output .* not closed/, () => 'A field is opened here with two braces and never closed'],
  [/tag .* not closed/, () => 'An instruction is opened here and never closed'],
  [/parse length limit/, () => 'This text is too long'],
  [/memory alloc limit|template render limit/, () => 'This text takes too long or grows too large to be written'],
];

function sentenceOf(error: unknown): string {
  const { message, token, originalError } = error as {
    message?: string;
    token?: { getPosition?: () => number[] };
    originalError?: unknown;
  };
  const told = `${message ?? ''} ${originalError instanceof Error ? originalError.message : ''}`;
  const [line] = token?.getPosition?.() ?? [];
  const where = line === undefined ? '' : `Line ${line}: `;
  for (const [pattern, words] of SENTENCES) {
    const found = pattern.exec(told);
    if (found) return `${where}${words(found)}`;
  }
  return `${where}This part cannot be read. Check its braces, quotation marks, and filters`;
}
