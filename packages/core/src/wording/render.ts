/** A wording made into the message of one student: Liquid over the merge fields, as plain text and as HTML. */
import { Liquid, type Template } from 'liquidjs';
import { problemsOfIssues, type Parsed, type Problem } from '../problem.ts';
import { fullName } from '../course/person.ts';
import { FIELD_NAMES, fieldValues, linkedItem, type FieldContext } from './fields.ts';
import { blocksOf, inOneLine, markTyped, picturesIn, textOf, type Block } from './markup.ts';
import { copyFor, textsOf, wordingSchema, type Variant, type Wording } from './wording.ts';

/** No files, no includes; loops are bounded so that a template cannot hang a round. */
const engine = new Liquid({ strictFilters: true, strictVariables: false, renderLimit: 500, memoryLimit: 2_000_000 });

export interface CompiledWording {
  readonly wording: Wording;
  /** The merge fields named in it. */
  readonly fields: readonly string[];
  /** The items of the course it links to. */
  readonly items: readonly string[];
  /** The files of the pictures in it. */
  readonly pictures: readonly string[];
  /** How many texts it has. */
  readonly count: number;
  /**
   * One of its texts, the first unless told otherwise, as the student reads it; or the words for another reader, named as a
   * step names them. Who has no own words reads the student's, introduced as such.
   */
  render(of: FieldContext, variant?: number, reader?: string): Message;
}

export interface Message {
  readonly subject: string;
  readonly text: string;
  /** The text with its links, emphasis and pictures. */
  readonly blocks: readonly Block[];
  /** The name of its letter, without the ending; null where it makes none. */
  readonly letterName: string | null;
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
  const copies = (wording.copies ?? []).map((copy, i) => compileVariant(copy, `copies[${i}].`, problems));
  const letter = wording.letter && parseTemplate(wording.letter.fileName, 'letter.fileName', problems);
  if (problems.length > 0) return { ok: false, problems };
  const compiled = texts as CompiledVariant[];
  const all = [...compiled, ...(copies as CompiledVariant[])];
  const fields = [...new Set(all.flatMap((v) => v.fields))];
  const letterName = (of: FieldContext): string | null =>
    letter ? fileNameOf(String(engine.renderSync(letter.templates, fieldValues(letter.fields, of)))) : null;
  return {
    ok: true,
    value: {
      wording,
      fields,
      items: fields.map(linkedItem).filter((id) => id !== null),
      pictures: [...new Set([...textsOf(wording), ...(wording.copies ?? [])].flatMap((v) => picturesIn(v.text)))],
      count: compiled.length,
      render(of, variant = 0, reader = 'student') {
        const copy = copyFor(wording, reader);
        if (copy) return { ...copies[wording.copies.indexOf(copy)]!.render(of), letterName: null };
        // A text that was taken out meanwhile gives way to the first.
        const own = (compiled[variant] ?? compiled[0]!).render(of);
        if (reader === 'student') return { ...own, letterName: letterName(of) };
        return { ...(wording.purpose === 'toMyself' ? own : introduced(own, of)), letterName: null };
      },
    },
  };
}

/** What a third party reads when the wording has no words for them: the student's own, and said to be that. */
function introduced(own: Rendered, of: FieldContext): Rendered {
  const student = fullName(of.facts.course.people[of.person]!);
  const intro = `For your information: this is what ${of.sender.name} wrote to ${student} (${of.facts.course.code}).`;
  const blocks: Block[] = [{ kind: 'paragraph', lines: [[{ kind: 'text', text: intro, em: true }]] }, ...own.blocks];
  return { ...own, subject: `About ${student}: ${own.subject}`, blocks, text: textOf(blocks) };
}

/** A name that every system takes. */
const fileNameOf = (marked: string): string =>
  inOneLine(marked)
    .replace(/[\\/:*?"<>|\p{Cc}]+/gu, ' ')
    .replace(/\s+/g, ' ')
    .replace(/^[. ]+|[. ]+$/g, '')
    .slice(0, 100) || 'Letter';

type Rendered = Omit<Message, 'letterName'>;

interface CompiledVariant {
  readonly fields: readonly string[];
  render(of: FieldContext): Rendered;
}

function compileVariant(variant: Variant, base: string, problems: Problem[]): CompiledVariant | null {
  const subject = parseTemplate(variant.subject, `${base}subject`, problems);
  const text = parseTemplate(variant.text, `${base}text`, problems);
  if (!subject || !text) return null;
  const fields = [...new Set([...subject.fields, ...text.fields])];
  const unguarded = new Set(fields.filter((f) => linkedItem(f) === null && !hasFallback(variant, f)));
  return {
    fields,
    render(of) {
      const values = fieldValues(fields, of);
      const blocks = blocksOf(String(engine.renderSync(text.templates, values)));
      return {
        // A value with a line break in it must never become a header of its own.
        subject: inOneLine(String(engine.renderSync(subject.templates, values))),
        text: textOf(blocks),
        blocks,
        blanks: [...unguarded].filter((f) => valueOf(values, f) === null),
      };
    },
  };
}

function valueOf(values: Record<string, Record<string, string | null>>, name: string): string | null {
  const item = linkedItem(name);
  if (item !== null) return values['link']?.[item] ?? null;
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
    templates = engine.parse(markTyped(source));
  } catch (error) {
    const message = error instanceof Error ? error.message.split('\n')[0]! : 'unknown reason';
    problems.push({ path, code: 'liquid', message: `This text cannot be read: ${message}` });
    return null;
  }
  const fields = engine.globalFullVariablesSync(templates);
  for (const name of fields) {
    if (FIELD_NAMES.has(name) || linkedItem(name) !== null) continue;
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
