/** Text with merge fields as people read it: each field by its title, and nothing else of its source. */
import { Fragment } from 'react';
import { LIQUID_TAGS } from '@zest-bell/core/wording';
import { fieldTitleIn } from './fieldTitleIn.ts';

export type Titles = readonly { readonly id: string; readonly title: string }[];

const TAGS = new RegExp(`(${LIQUID_TAGS.source})`);

export function FieldText({ items, children }: { readonly items: Titles; readonly children: string }) {
  return children.split(TAGS).map((part, i) => {
    const field = /^\{\{\s*((?:[^\s|}["']|\[[^\]]*\])+)/.exec(part)?.[1];
    if (field !== undefined) return <span key={i} className="text-ink-2">{`‹${fieldTitleIn(field, items)}›`}</span>;
    return part.startsWith('{%') ? null : <Fragment key={i}>{part}</Fragment>;
  });
}
