/** A wording made into the message of one student: Liquid over the merge fields, as plain text and as HTML. */
import { Liquid, type Template } from 'liquidjs';
import { problemsOfIssues, type Parsed, type Problem } from '../problem.ts';
import { FIELD_NAMES, fieldValues, type FieldContext } from './fields.ts';
import { textsOf, wordingSchema, type Variant, type Wording } from './wording.ts';

/** No files, no includes; loops are bounded so that a template cannot hang a round. */
const engine = new Liquid({ strictFilters: true, strictVariables: false, renderLimit: 500, memoryLimit: 2_000_000 });

export interface CompiledWording {
  readonly wording: Wording;
  /** The merge fields named in it. */
  readonly fields: readonly string[];
  /** How many texts it has. */
  readonly count: number;
  /** One of its texts; the first unless told otherwise. */
  render(of: FieldContext, variant?: number): Message;
}

export interface Message {
  readonly subject: string;
  readonly text: string;
  readonly html: string;
  /** Fields that are named without a fallback and have no value for this student. */
  readonly blanks: readonly string[];
}

/**
 * Parses a wording and says every problem of it: a field that does not exist, Liquid that cannot be read, a subject that
 * is missing. What comes out can be rendered for anyone.
 */
export function compileWording(draft: unknown): Parsed<CompiledWording> {
  const parsed = wordingSchema.safeParse(draft);
  if (!parsed.success) return { ok: false, problems: problemsOfIssues(parsed.error.issues) };
  const wording = parsed.data;
  const problems: Problem[] = [];
  const texts = textsOf(wording).map((variant, i) =>
    compileVariant(variant, i === 0 ? '' : `variants[${i - 1}].`, problems),
  );
  if (problems.length > 0) return { ok: false, problems };
  const compiled = texts as CompiledVariant[];
  return {
    ok: true,
    value: {
      wording,
      fields: [...new Set(compiled.flatMap((v) => v.fields))],
      count: compiled.length,
      // A text that was taken out meanwhile gives way to the first.
      render: (of, variant = 0) => (compiled[variant] ?? compiled[0]!).render(of),
    },
  };
}

interface CompiledVariant {
  readonly fields: readonly string[];
  render(of: FieldContext): Message;
}

function compileVariant(variant: Variant, base: string, problems: Problem[]): CompiledVariant | null {
  const subject = parseTemplate(variant.subject, `${base}subject`, problems);
  const text = parseTemplate(variant.text, `${base}text`, problems);
  if (!subject || !text) return null;
  const fields = [...new Set([...subject.fields, ...text.fields])];
  const unguarded = new Set(fields.filter((f) => !hasFallback(variant, f)));
  return {
    fields,
    render(of) {
      const values = fieldValues(fields, of);
      const plain = tidy(String(engine.renderSync(text.templates, values)));
      return {
        // A value with a line break in it must never become a header of its own.
        subject: String(engine.renderSync(subject.templates, values)).replace(/\s+/g, ' ').trim(),
        text: plain,
        html: toHtml(plain),
        blanks: [...unguarded].filter((f) => valueOf(values, f) === null),
      };
    },
  };
}

function valueOf(values: Record<string, Record<string, string | null>>, name: string): string | null {
  const [scope, key] = name.split('.') as [string, string];
  return values[scope]?.[key] ?? null;
}

function parseTemplate(
  source: string,
  path: string,
  problems: Problem[],
): { templates: Template[]; fields: string[] } | null {
  let templates: Template[];
  try {
    templates = engine.parse(source);
  } catch (error) {
    const message = error instanceof Error ? error.message.split('\n')[0]! : 'unknown reason';
    problems.push({ path, code: 'liquid', message: `This text cannot be read: ${message}` });
    return null;
  }
  const fields = engine.globalFullVariablesSync(templates);
  for (const name of fields) {
    if (FIELD_NAMES.has(name)) continue;
    const near = nearest(name);
    problems.push({
      path,
      code: 'unknownField',
      message: `There is no merge field “${name}”${near ? `; did you mean “${near}”?` : ''}`,
    });
  }
  return { templates, fields };
}

const escaped = (name: string) => name.replace('.', '\\.');

/** A field has a fallback when it is never written bare: each use has `default:` or stands under an `if` on it. */
function hasFallback(wording: Variant, name: string): boolean {
  const all = `${wording.subject}\n${wording.text}`;
  if (new RegExp(`{%-?\\s*(if|unless)[^%]*${escaped(name)}`).test(all)) return true;
  const uses = all.match(new RegExp(`{{[^}]*${escaped(name)}[^}]*}}`, 'g')) ?? [];
  return uses.every((use) => /\|\s*default\s*:/.test(use));
}

/** The field whose name is closest, if it is close at all. */
function nearest(name: string): string | null {
  let best: string | null = null;
  let least = Math.max(3, Math.floor(name.length / 3));
  for (const known of FIELD_NAMES) {
    const d = editDistance(name, known);
    if (d < least) {
      least = d;
      best = known;
    }
  }
  return best;
}

function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++) {
      next[j] = Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1));
    }
    row = next;
  }
  return row[b.length]!;
}

const tidy = (text: string): string =>
  text
    .replace(/[ \t]+\n/g, '\n')
    .replace(/\n{3,}/g, '\n\n')
    .trim();

/** Text made safe to stand in a page or a message's HTML. */
export const escapeHtml = (s: string): string => s.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** Paragraphs at blank lines, lists where every line begins with "- ", links where an address stands in the text. */
export function toHtml(text: string): string {
  const blocks = text.split(/\n\s*\n/).map((block) => {
    const lines = block.split('\n');
    if (lines.every((l) => l.startsWith('- '))) {
      return `<ul>${lines.map((l) => `<li>${inline(l.slice(2))}</li>`).join('')}</ul>`;
    }
    return `<p>${lines.map(inline).join('<br>')}</p>`;
  });
  return blocks.join('\n');
}

const inline = (line: string): string =>
  escapeHtml(line).replace(/https?:\/\/[^\s<>&]+[^\s<>&.,;:!?)]/g, (url) => `<a href="${url}">${url}</a>`);
