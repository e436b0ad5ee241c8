/** A wording made into the message of one student: Liquid over the merge fields, as plain text and as HTML. */
import { distance } from 'fastest-levenshtein';
import { problemsOfIssues, type ParseResult, type Problem } from '../problem/problem.ts';
import { fullName } from '../course/person.ts';
import { dueItem, FIELD_NAMES, fieldValues, itemOfField, linkedItem, namedColumn } from './fields.ts';
import type { FieldContext } from './fieldContext.ts';
import { parseLiquid, renderLiquid, type LiquidTemplate } from './liquid.ts';
import { blocksOf, inOneLine, markTyped, picturesIn, textOf, type Block } from './markup.ts';
import { STUDENTS_LIST, studentsList } from './together.ts';
import { usesOf } from './uses.ts';
import { copyFor, textsOf, wordingSchema, type Variant, type Wording } from './wording.ts';

export interface CompiledWording {
  readonly wording: Wording;
  /** The merge fields named in it. */
  readonly fields: readonly string[];
  /** The items of the course it names. */
  readonly items: readonly string[];
  /** The files of the pictures in it. */
  readonly pictures: readonly string[];
  /** How many texts it has. */
  readonly count: number;
  /**
   * One of its texts, the first unless told otherwise, as the student reads it; or the text for another reader, named as a
   * step names them. A reader without a text of their own reads the student's, introduced as such. A text that parses may
   * still fail on the values of one student: its problems come out then, and nothing is thrown.
   */
  render(context: FieldContext, variant?: number, reader?: string): ParseResult<Message>;
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
 * is missing.
 */
export function compileWording(draft: unknown): ParseResult<CompiledWording> {
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
  return {
    ok: true,
    value: {
      wording,
      fields,
      items: [...new Set(fields.map(itemOfField).filter((id) => id !== null))],
      pictures: [...new Set([...textsOf(wording), ...(wording.copies ?? [])].flatMap((v) => picturesIn(v.text)))],
      count: compiled.length,
      render(context, variant = 0, reader = 'student') {
        const copy = copyFor(wording, reader);
        // A text that was taken out in the meantime gives way to the first.
        const source = copy ? copies[wording.copies.indexOf(copy)]! : (compiled[variant] ?? compiled[0]!);
        const own = source.render(context);
        if (!own.ok) return own;
        if (copy) return { ok: true, value: { ...own.value, letterName: null } };
        if (reader === 'student') return withLetterName(own.value, letter, context);
        const isPlain = wording.purpose === 'toMyself' || context.together !== undefined;
        const read = isPlain ? own.value : introduced(own.value, context);
        return { ok: true, value: { ...read, letterName: null } };
      },
    },
  };
}

function withLetterName(own: RenderedText, letter: LiquidTemplate | null, context: FieldContext): ParseResult<Message> {
  if (!letter) return { ok: true, value: { ...own, letterName: null } };
  const name = renderLiquid(letter, fieldValues(letter.variables, context), 'letter.fileName');
  return name.ok
    ? { ok: true, value: { ...own, letterName: fileNameOf(name.text) } }
    : { ok: false, problems: [name.problem] };
}

/** What a third party reads when the wording has no words for them: the student's own, and said to be that, or to be none. */
function introduced(own: RenderedText, context: FieldContext): RenderedText {
  const student = fullName(context.facts.course.people[context.person]!);
  const about = `${student} (${context.facts.course.code})`;
  const intro = context.alert
    ? `For your information, about ${about}. The student does not get this message.`
    : `For your information: this is what ${context.sender.name} wrote to ${about}.`;
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

type RenderedText = Omit<Message, 'letterName'>;

interface CompiledVariant {
  readonly fields: readonly string[];
  render(context: FieldContext): ParseResult<RenderedText>;
}

function compileVariant(variant: Variant, base: string, problems: Problem[]): CompiledVariant | null {
  const subject = parseTemplate(variant.subject, `${base}subject`, problems);
  const text = parseTemplate(variant.text, `${base}text`, problems);
  if (!subject || !text) return null;
  const fields = [...new Set([...subject.variables, ...text.variables])];
  const uses = [...usesOf(subject.templates), ...usesOf(text.templates)];
  const bare = new Set(uses.flatMap((u) => (u.bare && linkedItem(u.field) === null ? [u.field] : [])));
  return {
    fields,
    render(context) {
      const values = fieldValues(fields, context);
      const rendered = [
        renderLiquid(subject, values, `${base}subject`),
        renderLiquid(text, values, `${base}text`),
      ] as const;
      const found = rendered.flatMap((r) => (r.ok ? [] : [r.problem]));
      const [head, body] = rendered;
      if (!head.ok || !body.ok) return { ok: false, problems: found };
      const blocks = withStudents(blocksOf(body.text), fields, context);
      return {
        ok: true,
        value: {
          // A value with a line break in it must never become a header of its own.
          subject: inOneLine(head.text),
          text: textOf(blocks),
          blocks,
          blanks: [...bare].filter((f) => valueOf(values, f) === null),
        },
      };
    },
  };
}

/** A message about several names them, also where its text forgot to: before its last paragraph, which is the signature. */
function withStudents(blocks: readonly Block[], fields: readonly string[], context: FieldContext): readonly Block[] {
  if (context.together === undefined || fields.includes(STUDENTS_LIST)) return blocks;
  const list = blocksOf(studentsList(context) ?? '');
  const signed = fields.includes('sender.signature') && context.sender.signature.trim() !== '';
  return signed ? [...blocks.slice(0, -1), ...list, ...blocks.slice(-1)] : [...blocks, ...list];
}

function valueOf(values: Record<string, Record<string, string | null>>, name: string): string | null {
  const item = linkedItem(name);
  if (item !== null) return values['link']?.[item] ?? null;
  const due = dueItem(name);
  if (due !== null) return values['due']?.[due] ?? null;
  const column = namedColumn(name);
  if (column !== null) return values['column']?.[column] ?? null;
  const [scope, key] = name.split('.') as [string, string];
  return values[scope]?.[key] ?? null;
}

function parseTemplate(source: string, path: string, problems: Problem[]): LiquidTemplate | null {
  const parsed = parseLiquid(markTyped(source), path, problems);
  for (const name of parsed?.variables ?? []) {
    if (FIELD_NAMES.has(name) || itemOfField(name) !== null || namedColumn(name) !== null) continue;
    const near = nearest(name);
    problems.push({
      path,
      code: 'unknownField',
      message: `There is no merge field “${name}”${near ? `; did you mean “${near}”?` : ''}`,
    });
  }
  return parsed;
}

/** The field with the closest name, if any is close. */
function nearest(name: string): string | null {
  const [best] = [...FIELD_NAMES]
    .map((known) => ({ known, edits: distance(name, known) }))
    .sort((a, b) => a.edits - b.edits);
  return best && best.edits < Math.max(3, Math.floor(name.length / 3)) ? best.known : null;
}
