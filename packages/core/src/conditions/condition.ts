/** The tree of a rule's condition (engine C1, C2) and its parse. A draft may be anything; what comes out is sound. */
import { z } from 'zod';
import { joinPath, problemsOfIssues, type ParseResult, type Problem } from '../problem/problem.ts';
import { numberIn, rangeError } from '../problem/rangeSchema.ts';
import { markSchema } from '../course/mark.ts';
import { CATALOGUE } from '../measures/catalogue/catalogue.ts';
import { isDecimal } from '../measures/catalogue/field.ts';
import { rangeOf } from '../measures/values/range.ts';
import {
  MEASURE_NAMES,
  type Comparator,
  type Measure,
  type MeasureCall,
  type MeasureName,
} from '../measures/values/measure.ts';

const COMPARATORS: readonly [Comparator, ...Comparator[]] = [
  '>=',
  '<=',
  '>',
  '<',
  'equals',
  'differs',
  'contains',
  'empty',
  'filled',
];
export type { Comparator };

/** A threshold: a number, a named mark of the course, a yes or no, a text. */
export type Threshold = number | boolean | string | { readonly mark: string };

export interface Leaf extends MeasureCall {
  readonly is: Comparator;
  /** Left out exactly for `empty` and `filled`. */
  readonly value?: Threshold | undefined;
}

export type ConditionGroup =
  | { readonly all: readonly Condition[] }
  | { readonly any: readonly Condition[] }
  | { readonly none: readonly Condition[] };

export type Condition = Leaf | ConditionGroup;

export type GroupKind = 'all' | 'any' | 'none';
export const GROUP_KINDS: readonly GroupKind[] = ['all', 'any', 'none'];

export const isLeaf = (c: Condition): c is Leaf => 'measure' in c;

/** A group's kind and children. */
export function groupOf(g: ConditionGroup): { kind: GroupKind; children: readonly Condition[] } {
  if ('all' in g) return { kind: 'all', children: g.all };
  if ('any' in g) return { kind: 'any', children: g.any };
  return { kind: 'none', children: g.none };
}

/** Makes a group from its kind and children. */
export function makeGroup(kind: GroupKind, children: readonly Condition[]): ConditionGroup {
  return kind === 'all' ? { all: children } : kind === 'any' ? { any: children } : { none: children };
}

/** Every leaf in the tree's order. */
export function leavesOf(c: Condition): readonly Leaf[] {
  return isLeaf(c) ? [c] : groupOf(c).children.flatMap(leavesOf);
}

const NUMBERS: readonly Comparator[] = ['>=', '<=', '>', '<', 'equals', 'differs', 'empty', 'filled'];
const YES_NO: readonly Comparator[] = ['equals', 'differs', 'empty', 'filled'];

/** A column may hold a number or a text, so it takes what either does (engine C1). */
export function comparatorsFor(measure: Measure): readonly Comparator[] {
  if (measure.unit === 'text') return COMPARATORS;
  return measure.unit === 'yesNo' ? YES_NO : NUMBERS;
}

const TEXTS: readonly Comparator[] = ['equals', 'differs', 'contains'];

const thresholdSchema = (measure: Measure): z.ZodType<Threshold> => {
  if (measure.unit === 'yesNo') return z.boolean();
  const range = rangeOf(measure);
  const number = range
    ? z.union([numberIn(range), markSchema], { error: rangeError(range) })
    : z.union([z.number(), markSchema]);
  return measure.unit === 'text' ? z.union([number, z.string().trim().min(1, 'A text to compare with')]) : number;
};

const madeSchemas = new Map<MeasureName, z.ZodType<Leaf>>();

function leafSchema(name: MeasureName): z.ZodType<Leaf> {
  const known = madeSchemas.get(name);
  if (known) return known;
  const measure = CATALOGUE[name];
  const schema = z
    .strictObject({
      measure: z.literal(name),
      ...measure.parameters,
      is: z.enum(comparatorsFor(measure), `${measure.title} is compared with ${comparatorsFor(measure).join(', ')}`),
      value: thresholdSchema(measure).optional(),
    })
    .superRefine((leaf, ctx) => {
      const bare = leaf.is === 'empty' || leaf.is === 'filled';
      if (bare && leaf.value !== undefined) {
        ctx.addIssue({ code: 'custom', path: ['value'], message: `“${leaf.is}” takes no value` });
      }
      if (!bare && leaf.value === undefined) {
        ctx.addIssue({ code: 'custom', path: ['value'], message: 'A value to compare with is missing' });
      }
      if (measure.unit === 'text' && typeof leaf.value === 'string' && !isDecimal(leaf.value) && !bare) {
        if (!TEXTS.includes(leaf.is)) {
          ctx.addIssue({ code: 'custom', path: ['is'], message: `A text is compared with ${TEXTS.join(', ')}` });
        }
      }
      const named = measure.exactlyOneOf?.filter((p) => (leaf as Partial<MeasureCall>)[p] !== undefined);
      if (named && named.length !== 1) {
        const [first, ...others] = measure.exactlyOneOf!;
        const at = named.length === 0 ? first! : named.at(-1)!;
        ctx.addIssue({
          code: 'custom',
          path: [at],
          message: `Give exactly one of ${[first, ...others].join(' and ')}`,
        });
      }
      if ('item' in leaf && 'group' in leaf && leaf.item !== undefined && leaf.group !== undefined) {
        ctx.addIssue({ code: 'custom', path: ['group'], message: 'Name an item or a group, not both' });
      }
      if ('group' in leaf && 'items' in leaf && leaf.group !== undefined && leaf.items !== undefined) {
        ctx.addIssue({ code: 'custom', path: ['items'], message: 'Name a group or items, not both' });
      }
    }) as unknown as z.ZodType<Leaf>;
  madeSchemas.set(name, schema);
  return schema;
}

/** The schema of a leaf on each measure. */
export const leafSchemas = (): z.ZodType<Leaf>[] => MEASURE_NAMES.map(leafSchema);

/** Reads a condition and reports every problem, each at its path. */
export function parseCondition(draft: unknown, path = ''): ParseResult<Condition> {
  const problems: Problem[] = [];
  const value = read(draft, path, problems, 0);
  if (value !== null && leavesOf(value).length > MOST_LEAVES) {
    problems.push({ path, code: 'tooMany', message: `A rule has at most ${MOST_LEAVES} conditions` });
  }
  return value !== null && problems.length === 0 ? { ok: true, value } : { ok: false, problems };
}

const MOST_LEAVES = 200;
/** Deeper than anyone can read, and a guard against a tree made to exhaust the stack. */
const DEEPEST = 20;

function read(draft: unknown, path: string, problems: Problem[], depth: number): Condition | null {
  const problem = (at: string, code: string, message: string) => {
    problems.push({ path: at, code, message });
    return null;
  };
  if (depth > DEEPEST) return problem(path, 'tooDeep', 'The groups are nested too deeply');
  if (typeof draft !== 'object' || draft === null || Array.isArray(draft)) {
    return problem(path, 'invalidType', 'A condition is expected here');
  }
  const kinds = GROUP_KINDS.filter((k) => k in draft);
  if (kinds.length > 0) {
    const kind = kinds[0]!;
    for (const key of Object.keys(draft)) {
      if (key !== kind) problem(joinPath(path, key), 'unknownKey', `“${key}” is not known beside “${kind}”`);
    }
    const children = (draft as Record<string, unknown>)[kind];
    const at = joinPath(path, kind);
    if (!Array.isArray(children)) return problem(at, 'invalidType', 'A list of conditions is expected here');
    if (children.length === 0) return problem(at, 'emptyGroup', 'A group needs at least one condition');
    const parsed = children.map((child, i) => read(child, joinPath(at, i), problems, depth + 1));
    return parsed.some((c) => c === null) ? null : makeGroup(kind, parsed as Condition[]);
  }
  const name = (draft as Record<string, unknown>)['measure'];
  if (!MEASURE_NAMES.includes(name as MeasureName)) {
    return problem(joinPath(path, 'measure'), 'unknownMeasure', `There is no measure “${String(name)}”`);
  }
  const parsed = leafSchema(name as MeasureName).safeParse(draft);
  if (parsed.success) return parsed.data;
  problems.push(...problemsOfIssues(parsed.error.issues, path));
  return null;
}
