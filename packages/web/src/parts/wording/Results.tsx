/** What came of a wording, text by text: shares with what chance could have made of them, and no winner without one. */
import { plural } from '@zest-bell/core/time';
import type { TextResult, TextResults } from '@zest-bell/core/outcomes';
import { ShareBar } from '../../ui/ShareBar.tsx';

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
            <th className="font-semibold">Replied</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={i} className="border-t border-line align-top">
              <td className="py-1">{texts.length > 1 && i < texts.length ? `Text ${i + 1}` : 'All'}</td>
              <td className="py-1 font-num">{row.sent}</td>
              <td className="py-1">{row.returns ? <ShareBar share={row.returns} /> : <None row={row} />}</td>
              <td className="py-1">
                <ShareBar share={row.replies} />
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

const None = ({ row }: { readonly row: TextResult }) => (
  <span className="text-ink-3">{row.sent === row.open ? 'too soon to say' : 'does not apply'}</span>
);
