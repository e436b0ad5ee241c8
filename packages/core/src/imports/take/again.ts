/** What a file says that was so already. It is kept, so that undoing what made it so leaves it as it is. */
import type { Grade } from '../../activity/event.ts';

export interface EntryAgain {
  readonly id: string;
  /** Fields that it says; none where it only names the entry. An own column is `fields.` and its name. */
  readonly fields: readonly string[];
}

export interface RepeatedFacts {
  readonly grades: readonly Grade[];
  readonly people: readonly EntryAgain[];
  readonly items: readonly EntryAgain[];
}

/** The people and items that a file names, while it is taken. */
export class EntriesAgain {
  private readonly people = new Map<string, Set<string>>();
  private readonly items = new Map<string, Set<string>>();

  say(of: 'people' | 'items', id: string, fields: readonly string[]): void {
    const known = this[of].get(id) ?? new Set();
    this[of].set(id, known);
    for (const field of fields) known.add(field);
  }

  get all(): Omit<RepeatedFacts, 'grades'> {
    const list = (of: 'people' | 'items') => [...this[of]].map(([id, fields]) => ({ id, fields: [...fields] }));
    return { people: list('people'), items: list('items') };
  }
}
