/** Conditions as people type them: clauses that are joined, negated, and put in parentheses ([Y4]). */
import { makeGroup, type Condition, type GroupKind, type Leaf } from '../conditions/condition.ts';
import {
  best,
  either,
  map,
  optional,
  remembered,
  then,
  word,
  words,
  type NameRead,
  type Parser,
  type Source,
} from './parsers.ts';
import { clause, conditionOf } from './phrases.ts';

/** Something that can be read in more than one way. */
export interface OpenChoice {
  readonly from: number;
  readonly to: number;
  readonly readings: readonly (readonly Leaf[])[];
  readonly names: readonly (readonly NameRead[])[];
}

/** A condition in the making. */
export type Tree =
  | { readonly kind: 'clause'; readonly choice: OpenChoice }
  | {
      readonly kind: 'group';
      readonly group: GroupKind;
      readonly children: readonly Tree[];
      readonly isClosed: boolean;
    };

interface Parsed {
  readonly tree: Tree;
  readonly end: number;
}

type Joiner = 'and' | 'or' | 'unless' | ',';

const WHO = words('who|that|which|whose');

/** What joins two conditions. */
const joiner: Parser<Joiner> = remembered(
  'joiner',
  either<Joiner>(
    map(words(',|;'), () => ','),
    then(optional(word(',')), word('and', 'but', 'also', '&'), () => 'and'),
    then(optional(word(',')), word('or'), () => 'or'),
    then(optional(word(',')), word('unless'), () => 'unless'),
    map(WHO, () => 'and'),
  ),
);

const skipped = word('either', 'both', 'also', 'then', 'who', 'that');
const notAll = remembered(
  'not all',
  either(words('do|does|did|have|are not match|fit ('), words('not|without|unless ('), words('none of (')),
);
const negation = remembered('negation', either(words('not|without'), words('do|does|did|have|are not')));

const DEEPEST = 15;

/** The longest condition that begins here, or null. */
export function readCondition(source: Source, at: number, depth = 0): Parsed | null {
  let first = at;
  for (let skip = skipped(source, first); skip.length > 0 && skip[0]; skip = skipped(source, first)) {
    if (readOperand(source, first, depth)) break;
    first = skip[0].end;
  }
  const start = readOperand(source, first, depth);
  if (!start) return null;
  const operands: Tree[] = [start.tree];
  const joiners: Joiner[] = [];
  let { end } = start;
  for (;;) {
    const next = readNext(source, end, depth);
    if (!next) break;
    joiners.push(next.joiner);
    operands.push(next.joiner === 'unless' ? negated(next.tree) : next.tree);
    end = next.end;
  }
  return { tree: joined(operands, joiners), end };
}

function readNext(source: Source, at: number, depth: number): (Parsed & { joiner: Joiner }) | null {
  const [join] = best(joiner(source, at));
  let from = join?.end ?? at;
  for (;;) {
    const operand = readOperand(source, from, depth);
    if (operand) return { ...operand, joiner: join?.value ?? ',' };
    const [skip] = skipped(source, from);
    if (!skip) return null;
    from = skip.end;
  }
}

function readOperand(source: Source, at: number, depth: number): Parsed | null {
  if (depth > DEEPEST) return null;
  const [none] = best(notAll(source, at));
  if (none) {
    const inner = readCondition(source, none.end, depth + 1);
    const close = inner && word(')')(source, inner.end)[0];
    return inner && close ? { tree: negated(inner.tree), end: close.end } : null;
  }
  const [open] = word('(')(source, at);
  if (open) {
    const inner = readCondition(source, open.end, depth + 1);
    const close = inner && word(')')(source, inner.end)[0];
    return inner && close ? { tree: closed(inner.tree), end: close.end } : null;
  }
  const plain = readClause(source, at);
  const [not] = best(negation(source, at));
  const inner = not ? (readClause(source, not.end) ?? null) : null;
  // A clause with a negative of its own reaches as far.
  if (inner && inner.end > (plain?.end ?? 0)) return { tree: negated(inner.tree), end: inner.end };
  return plain;
}

const bestClause = remembered('best clause', (source, at) => best(clause(source, at)));

function readClause(source: Source, at: number): Parsed | null {
  const found = bestClause(source, at);
  if (found.length === 0) return null;
  const { end } = found[0]!;
  const choice = { from: at, to: end, readings: found.map((r) => r.value), names: found.map((r) => r.names) };
  return { tree: { kind: 'clause', choice }, end };
}

/** What stood in parentheses stays together. */
const closed = (tree: Tree): Tree =>
  tree.kind === 'group'
    ? { ...tree, isClosed: true }
    : { kind: 'group', group: 'all', children: [tree], isClosed: true };

/** None of what is joined by “or”, or not the whole. */
const negated = (tree: Tree): Tree => {
  const isOpenList = tree.kind === 'group' && tree.group === 'any' && !tree.isClosed;
  return { kind: 'group', group: 'none', children: isOpenList ? tree.children : [tree], isClosed: true };
};

/** A comma joins as the next joiner does, and as “and” where none follows; “and” joins more tightly than “or”. */
function joined(operands: readonly Tree[], joiners: readonly Joiner[]): Tree {
  let next: 'and' | 'or' = 'and';
  const resolved: ('and' | 'or')[] = [];
  for (const j of joiners.toReversed()) {
    if (j !== ',') next = j === 'or' ? 'or' : 'and';
    resolved.unshift(next);
  }
  const runs: Tree[][] = [[operands[0]!]];
  resolved.forEach((j, i) => {
    if (j === 'or') runs.push([operands[i + 1]!]);
    else runs.at(-1)!.push(operands[i + 1]!);
  });
  const all = runs.map((run) => grouped('all', run));
  return grouped('any', all);
}

const grouped = (group: GroupKind, children: readonly Tree[]): Tree =>
  children.length === 1 ? children[0]! : { kind: 'group', group, children, isClosed: false };

/** All choices of a tree, in the order of the text. */
export const choicesOf = (tree: Tree): readonly OpenChoice[] =>
  tree.kind === 'clause' ? [tree.choice] : tree.children.flatMap(choicesOf);

/** The condition that a tree means, with one reading of each choice. */
export function conditionIn(tree: Tree, chosen: (choice: OpenChoice) => readonly Leaf[]): Condition {
  if (tree.kind === 'clause') return conditionOf(chosen(tree.choice));
  const children = tree.children.flatMap((child): readonly Condition[] => {
    const isRange = tree.group === 'all' && child.kind === 'clause';
    return isRange ? chosen(child.choice) : [conditionIn(child, chosen)];
  });
  return children.length === 1 && tree.group !== 'none' ? children[0]! : makeGroup(tree.group, children);
}
