import { dueItem, fieldTitle, itemOfField } from '@zest-bell/core/wording';

/** A field by its title; a link to an item by the item’s, and when it is due likewise. */
export function fieldTitleIn(field: string, items: readonly { readonly id: string; readonly title: string }[]): string {
  const id = itemOfField(field);
  if (id === null) return fieldTitle(field);
  const title = items.find((i) => i.id === id)?.title ?? `an item that is gone (${id})`;
  return dueItem(field) === null ? title : `When ${title} is due`;
}
