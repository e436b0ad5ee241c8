/** Spells: the maximal stretches in which a whole condition stays true (engine C6). */
import type { Facts } from '../measures/facts/facts.ts';
import type { Instant } from '../time/instant.ts';
import { placeAt, placeFrom, stretchAt } from '../time/stretches.ts';
import type { Condition } from './condition.ts';
import { sidesOf } from './evaluate.ts';

export interface Spell {
  readonly start: Instant;
  readonly end: Instant;
}

/** The student of the spell, by place in the roster. */
export interface PersonSpell extends Spell {
  readonly person: number;
}

/** The spell a person is in at t, or null. */
export function spellAt(facts: Facts, person: number, condition: Condition, t: Instant): Spell | null {
  // Before a story starts nothing is known (engine H4): its timelines begin there, and so do its spells.
  return stretchAt(sidesOf(facts, condition)(person, true), t);
}

/** The spells that people are in at t, in roster order. */
export function spellsAt(facts: Facts, condition: Condition, t: Instant): PersonSpell[] {
  const sides = sidesOf(facts, condition);
  const found: PersonSpell[] = [];
  for (let person = 0; person < facts.course.people.length; person++) {
    const yes = sides(person, true);
    const k = placeAt(yes, t);
    if (k >= 0) found.push({ person, start: yes[k]!, end: yes[k + 1]! });
  }
  return found;
}

/**
 * The same at each of many instants, given in order: each person's stretches are walked once, and a spell is one object at all the
 * instants it lasts.
 */
export function spellsAtEach(
  facts: Facts,
  condition: Condition,
  instants: readonly Instant[],
): ReadonlyMap<Instant, readonly PersonSpell[]> {
  const sides = sidesOf(facts, condition);
  const spells: PersonSpell[] = [];
  // At which of the instants each lasts, and at each instant how many more do than at the one before.
  const from: number[] = [];
  const to: number[] = [];
  const more = new Int32Array(instants.length + 1);
  for (let person = 0; person < facts.course.people.length; person++) {
    const yes = sides(person, true);
    let i = 0;
    for (let k = 0; k < yes.length && i < instants.length; k += 2) {
      const first = placeFrom(instants, yes[k]!, i);
      i = placeFrom(instants, yes[k + 1]!, first);
      if (first === i) continue;
      spells.push({ person, start: yes[k]!, end: yes[k + 1]! });
      from.push(first);
      to.push(i);
      more[first]!++;
      more[i]!--;
    }
  }
  let lasting = 0;
  const found = instants.map((_, i) => new Array<PersonSpell>((lasting += more[i]!)));
  const next = new Int32Array(instants.length);
  for (const [s, spell] of spells.entries()) for (let i = from[s]!; i < to[s]!; i++) found[i]![next[i]!++] = spell;
  return new Map(instants.map((t, i) => [t, found[i]!]));
}
