import type { ReactNode } from 'react';

/** A step of carrying over. */
export function Section(props: { readonly title: string; readonly note: ReactNode; readonly children: ReactNode }) {
  return (
    <section aria-label={props.title} className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[19px] font-bold">{props.title}</h2>
      <p className="text-[14px] text-ink-2">{props.note}</p>
      {props.children}
    </section>
  );
}
