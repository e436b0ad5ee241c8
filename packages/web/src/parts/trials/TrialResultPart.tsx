/** The state of a fair trial: text by text, the difference with its interval, and whether this is an interim look. */
import { dayWords, listWords } from '@zest-bell/core/time';
import type { TrialView } from '@zest-bell/core/exchange';
import { Chip } from '../../ui/Chip.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { ShareBar } from '../../ui/ShareBar.tsx';
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
      <PlainTable
        columns={[
          { name: 'Text' },
          { name: 'Students who came back within two weeks' },
          { name: 'May still come back', right: true },
        ]}
        rows={texts.map((share, i) => ({
          key: String(i),
          head: `Text ${i + 1}`,
          cells: [<ShareBar key="share" share={share} figures />, trial.open[i]],
        }))}
      />
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
