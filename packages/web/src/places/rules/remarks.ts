/** What is said beside a condition: that nobody meets it, or everybody, or that it works against another one. */
import type { Course } from '@zest-bell/core/course';
import { CATALOGUE } from '@zest-bell/core/measures';
import { leafClause, type Condition, type Conflict, type Leaf } from '@zest-bell/core/conditions';
import type { Dot, Reach } from '@zest-bell/core/rounds';
import { leavesWithPaths } from '../../parts/conditions/tree.ts';

const CONFLICT_WORDS: Readonly<Record<Conflict['kind'], (words: string) => string>> = {
  contradiction: (words) => `Cannot be true together with “${words}”.`,
  needless: (words) => `Adds nothing to “${words}”.`,
  always: (words) => `One of this and “${words}” is always true, so every student matches.`,
};

/** By the condition's path; what contradicts is said before who meets it. Without a reach, only what the words themselves say. */
export function remarksOn(
  when: Condition,
  conflicts: readonly Conflict[],
  reach: Pick<Reach, 'dots' | 'unheard'> | null,
  course: Course,
): ReadonlyMap<string, string> {
  const leaves = leavesWithPaths(when);
  const remarks = new Map<string, string>();
  leaves.forEach(({ path }, i) => {
    const words = countWords(reach?.dots[i] ?? [], leaves.length, leaves[i]!.leaf);
    const unheard = reach?.unheard.find((u) => u.leaf === i);
    if (unheard ?? words) remarks.set(path.join('.'), unheard?.message ?? words!);
  });
  for (const c of conflicts) {
    const words = leafClause(leaves[c.of]!.leaf, course).marked;
    remarks.set(leaves[c.more]!.path.join('.'), CONFLICT_WORDS[c.kind](words));
  }
  return remarks;
}

function countWords(dots: readonly Dot[], conditions: number, { measure }: Leaf): string | null {
  if (dots.length === 0) return null;
  const known = dots.filter((d) => d.meets !== 'unknown');
  const met = known.filter((d) => d.meets !== 'no').length;
  if (known.length === 0) {
    return CATALOGUE[measure].classWide
      ? 'Not known for any student yet. The class is compared as of the last midnight, so what came in today counts from tomorrow.'
      : 'There is no data about this for any student yet.';
  }
  if (met === 0) return 'No student matches this right now.';
  // Alone it is the rule itself, and the headline says so.
  return met === dots.length && conditions > 1 ? 'Every student matches this right now.' : null;
}
