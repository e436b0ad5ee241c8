/** What somebody chose to carry over, as it is kept while the page is left, and as the server is asked. */
import type { BodyGiven } from '@zest-bell/core/contract';
import type { contract } from '@zest-bell/core/contract';
import type { CarryPreview } from '@zest-bell/core/exchange';
import type { Here } from '../../lib/here.ts';

export interface Choices {
  /** The target's item by the source's; null: none. Left out: as proposed. */
  readonly told: Readonly<Record<string, string | null>>;
  readonly withItems: boolean;
  /** Rules and views that stay behind: what is new in the source comes along. */
  readonly rulesLeft: readonly string[];
  readonly viewsLeft: readonly string[];
  /** Settings that come along although this course has its own. */
  readonly settings: readonly string[];
  readonly sender: boolean;
  /** Texts that stay as they are. */
  readonly asTheyAre: readonly string[];
}

export const NO_CHOICES: Choices = {
  ...{ told: {}, withItems: false, rulesLeft: [], viewsLeft: [] },
  ...{ settings: [], sender: false, asTheyAre: [] },
};

export const toggled = (list: readonly string[], name: string, isIn: boolean): readonly string[] =>
  isIn ? [...list.filter((n) => n !== name), name] : list.filter((n) => n !== name);

/** What is asked for the preview: of all rules, so that those that stay behind are shown too. */
export function askedFor(
  source: number,
  choices: Choices,
  preview?: CarryPreview,
): BodyGiven<typeof contract.carry.over> {
  const { rulesLeft, viewsLeft, ...rest } = choices;
  const staying = (names: readonly string[], left: readonly string[]) => names.filter((n) => !left.includes(n));
  return {
    ...rest,
    from: source,
    rules: preview
      ? staying(
          preview.rules.map((r) => r.from),
          rulesLeft,
        )
      : null,
    views: preview
      ? staying(
          preview.views.map((v) => v.name),
          viewsLeft,
        )
      : null,
  };
}

/** The match of an item with another one; whoever had that one has none then. */
export function paired(preview: CarryPreview, told: Choices['told'], from: string, to: string | null): Choices['told'] {
  const others = to === null ? [] : preview.items.filter((m) => m.to === to && m.from !== from).map((m) => m.from);
  return { ...told, ...Object.fromEntries(others.map((o) => [o, null])), [from]: to };
}

/** Items that a rule that comes along names and that have no match yet, or only one that looks alike. */
export function unmatched(preview: CarryPreview, choices: Choices): { readonly none: number; readonly alike: number } {
  const named = new Set(preview.rules.filter((r) => !choices.rulesLeft.includes(r.from)).flatMap((r) => r.items));
  const lines = choices.withItems ? [] : preview.items.filter((m) => named.has(m.from));
  return { none: lines.filter((m) => m.to === null).length, alike: lines.filter((m) => m.how === 'alike').length };
}

/** What every part of the page is about. */
export interface CarryPart {
  readonly here: Here;
  readonly preview: CarryPreview;
  readonly choices: Choices;
  readonly set: (part: Partial<Choices>) => void;
}
