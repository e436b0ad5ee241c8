/** What somebody chose to carry over, as it is kept while the page is left, and as the server is asked. */
import type { BodyGiven } from '@zest-bell/core/contract';
import type { contract } from '@zest-bell/core/contract';
import type { SettingChoices } from '@zest-bell/core/carry';
import type { CarryPreview, CarryRuleLine } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';

export interface CarryChoiceState {
  /** The target's item by the source's; null: none. Left out: as proposed. */
  readonly told: Readonly<Record<string, string | null>>;
  readonly withItems: boolean;
  /** Rules and views that stay behind: what is new in the source comes along. */
  readonly rulesLeft: readonly string[];
  readonly viewsLeft: readonly string[];
  /** Limits and marks that come along or stay behind; left out: they come where this course has none. */
  readonly settings: SettingChoices;
  /** Null: as proposed, which is one’s own. */
  readonly sender: boolean | null;
  /** Texts that stay as they are. */
  readonly asTheyAre: readonly string[];
}

export const NO_CHOICES: CarryChoiceState = {
  told: {},
  withItems: false,
  rulesLeft: [],
  viewsLeft: [],
  settings: {},
  sender: null,
  asTheyAre: [],
};

export const toggled = (list: readonly string[], name: string, isIn: boolean): readonly string[] =>
  isIn ? [...list.filter((n) => n !== name), name] : list.filter((n) => n !== name);

/** What is asked for the preview: of all rules, so that those that stay behind are shown too. */
export function previewRequest(
  source: number | string,
  choices: CarryChoiceState,
  preview?: CarryPreview,
): BodyGiven<typeof contract.carry.over> {
  const { rulesLeft, viewsLeft, ...rest } = choices;
  const staying = (names: readonly string[], left: readonly string[]) => names.filter((n) => !left.includes(n));
  const [ofRules, ofViews] = preview ? [preview.rules.map((r) => r.from), preview.views.map((v) => v.name)] : [];
  return {
    ...rest,
    sender: choices.sender ?? preview?.source.isOwnSender ?? false,
    from: source,
    rules: ofRules ? staying(ofRules, rulesLeft) : null,
    views: ofViews ? staying(ofViews, viewsLeft) : null,
  };
}

/** The match of an item with another one; an item that had that match loses it. */
export function paired(
  preview: CarryPreview,
  told: CarryChoiceState['told'],
  from: string,
  to: string | null,
): CarryChoiceState['told'] {
  const others = to === null ? [] : preview.items.filter((m) => m.to === to && m.from !== from).map((m) => m.from);
  return { ...told, ...Object.fromEntries(others.map((o) => [o, null])), [from]: to };
}

/** The rules that come along. */
export const rulesAlong = (preview: CarryPreview, { rulesLeft }: CarryChoiceState): readonly CarryRuleLine[] =>
  preview.rules.filter((r) => !rulesLeft.includes(r.from));

/** Items that a rule that comes along names and that have no match yet, or only one that looks alike. */
export function unmatched(
  preview: CarryPreview,
  choices: CarryChoiceState,
): { readonly none: number; readonly alike: number } {
  const named = new Set(rulesAlong(preview, choices).flatMap((r) => r.items));
  const lines = choices.withItems ? [] : preview.items.filter((m) => named.has(m.from));
  return { none: lines.filter((m) => m.to === null).length, alike: lines.filter((m) => m.how === 'alike').length };
}

/** What every part of the page is about. */
export interface CarryPart {
  readonly here: CourseHere;
  readonly preview: CarryPreview;
  readonly choices: CarryChoiceState;
  readonly set: (part: Partial<CarryChoiceState>) => void;
}
