import type { RuleDifference } from '@zest-bell/core/rules';

/** Two versions part by part: what was, and what is. */
export function DifferenceList({ all }: { readonly all: readonly RuleDifference[] }) {
  if (all.length === 0) return <p className="text-ink-2">There are no differences.</p>;
  return (
    <dl className="grid gap-2.5 text-[14.5px]">
      {all.map((d) => (
        <div key={d.part}>
          <dt className="text-[13px] text-ink-3">{d.part}</dt>
          <dd className="leading-snug break-words">
            <del className="text-ink-2 decoration-ink-3">{d.before}</del>
            <br />
            <ins className="marked font-semibold! no-underline">{d.after}</ins>
          </dd>
        </div>
      ))}
    </dl>
  );
}
