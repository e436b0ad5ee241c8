/** How a fair trial stands: text by text, the difference with its interval, and whether this is an interim look. */
import { dayWords, listWords, type TrialView } from '@zest-bell/core';
import { Chip } from '../ui/Chip.tsx';
import { ShareBar } from '../ui/ShareBar.tsx';
import { pairWords, standingWords } from './trialWords.ts';

export function TrialResultPart({ trial, zone }: { readonly trial: TrialView; readonly zone: string }) {
  const { startedAt, endedAt, startedBy, courses, texts, pairs, standing, points, needed } = trial;
  const isInterim = standing === 'interim';
  return (
    <div className="text-[14.5px]">
      <p className="flex flex-wrap items-center gap-x-2 gap-y-1 text-ink-2">
        {endedAt === null ? <Chip tone="zest">running</Chip> : <Chip tone="quiet">ended</Chip>}
        {isInterim && <Chip tone="brass">interim look</Chip>}
        <span>
          {startedBy} started it on {dayWords(startedAt, zone)}
          {endedAt !== null && `; it ended on ${dayWords(endedAt, zone)}`}. {listWords(courses)}.
        </span>
      </p>
      <table className="mt-2 w-full">
        <thead>
          <tr className="text-left text-[13px] text-ink-2">
            <th scope="col" className="font-semibold">
              Text
            </th>
            <th scope="col" className="font-semibold">
              Came back within two weeks
            </th>
            <th scope="col" className="text-right font-semibold">
              May still come back
            </th>
          </tr>
        </thead>
        <tbody>
          {texts.map((share, i) => (
            <tr key={i} className="border-t border-line">
              <th scope="row" className="max-w-72 truncate py-1 pr-3 text-left font-normal">
                <strong>Text {i + 1}</strong>
              </th>
              <td className="py-1 whitespace-nowrap">
                <ShareBar share={share} figures />
              </td>
              <td className="py-1 text-right font-num">{trial.open[i]}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="mt-2 grid gap-1 font-semibold">
        {pairs.map((p) => (
          <li key={`${p.a} ${p.b}`}>{pairWords(trial, p)}</li>
        ))}
      </ul>
      <p className="mt-1 text-[13.5px] text-ink-2">
        {standingWords(trial)} Each text needs {needed} to show a difference of {points} points.
        {isInterim &&
          ' This is an interim look. If you stop as soon as one text is ahead, you will often pick it by chance.'}
      </p>
    </div>
  );
}
