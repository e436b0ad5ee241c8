/** What came of a wording, text by text: shares with what chance could have made of them, and no winner without one. */
import { plural, type Proportion, type TextResult, type TextResults } from '@zest-bell/core';

export function Results({ results }: { readonly results: TextResults | undefined }) {
  if (!results) return null;
  const { texts, all, better } = results;
  if (all.sent === 0) return null;
  const rows = texts.length > 1 ? [...texts, all] : [all];
  return (
    <section aria-label="What came of it" className="border-t border-line pt-3.5">
      <h3 className="text-[13px] font-semibold text-ink-2">What came of it</h3>
      <table className="mt-1.5 w-full text-[14px]">
        <thead>
          <tr className="text-left text-[12.5px] text-ink-3">
            <th className="font-semibold">Text</th>
            <th className="font-semibold">Sent</th>
            <th className="font-semibold">Came back within two weeks</th>
            <th className="font-semibold">Answered</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={i} className="border-t border-line align-top">
              <td className="py-1">{texts.length > 1 && i < texts.length ? `Text ${i + 1}` : 'All'}</td>
              <td className="py-1 font-num">{row.sent}</td>
              <td className="py-1">{row.returns ? <Share of={row.returns} /> : <None row={row} />}</td>
              <td className="py-1">
                <Share of={row.replies} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1.5 text-[13px] text-ink-2">
        {all.open > 0 &&
          `${plural(all.open, 'message')} of the last two weeks ${all.open === 1 ? 'is' : 'are'} not counted yet. `}
        {texts.length > 1 &&
          (better
            ? `Text ${better.better + 1} ${better.what === 'returns' ? 'brought more students back' : 'got more replies'} than text ${better.worse + 1}; chance alone would rarely do that.`
            : 'No text is clearly better so far. The differences may be chance.')}
      </p>
    </section>
  );
}

const percent = (share: number): string => `${Math.round(share * 100)}%`;

/** A share with its interval, drawn and in figures. */
function Share({ of: proportion }: { readonly of: Proportion }) {
  if (proportion.of === 0) return <span className="text-ink-3">too soon to say</span>;
  const share = proportion.count / proportion.of;
  return (
    <span
      className="inline-flex items-center gap-2"
      title={`With so few nudges, the true share may be anywhere from ${percent(proportion.low)} to ${percent(proportion.high)} (95% interval by Wilson)`}
    >
      <span aria-hidden className="relative h-2 w-20 rounded-full bg-fog">
        <span
          className="absolute inset-y-0 rounded-full bg-zest"
          style={{ left: percent(proportion.low), right: percent(1 - proportion.high) }}
        />
        <span className="absolute -inset-y-0.5 w-0.5 bg-ink ring-1 ring-sheet" style={{ left: percent(share) }} />
      </span>
      <span className="font-num text-[13px]">
        {proportion.count} of {proportion.of}
      </span>
      <span className="sr-only">
        from {percent(proportion.low)} to {percent(proportion.high)}
      </span>
    </span>
  );
}

const None = ({ row }: { readonly row: TextResult }) => (
  <span className="text-ink-3">{row.sent === row.open ? 'too soon to say' : 'does not apply'}</span>
);
