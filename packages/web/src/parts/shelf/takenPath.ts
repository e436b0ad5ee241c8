import type { ShelfKind } from '@zest-bell/core/exchange';

/** Where something that was taken from the shelf is in a course. */
export const takenPath = (course: number, { kind, key }: { readonly kind: ShelfKind; readonly key: string }): string =>
  kind === 'rule' ? `/c/${course}/rules/${key}` : `/c/${course}/wording?wording=${encodeURIComponent(key)}`;
