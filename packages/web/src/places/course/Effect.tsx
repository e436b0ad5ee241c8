/** What the limits as drafted would have changed: the same rounds, decided under both. */
import { plural } from '@zest-bell/core/time';
import { WITHHELD_WORDS, type WithheldReason } from '@zest-bell/core/rounds';
import type { LimitsEffectAnswer, LimitSide } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { When } from '../../ui/When.tsx';

const ROWS = [
  ['sent', 'sent at once'],
  ['delayed', 'sent when quiet hours ended'],
  ['held', 'waiting for you'],
  ['overBudget', 'held back: message budget used up'],
  ['otherwiseWithheld', 'held back: a limit of the rule'],
  ['withdrawn', 'canceled before it left'],
] as const;

export function Effect({
  here,
  effect,
  dirty,
}: {
  readonly here: CourseHere;
  readonly effect: LimitsEffectAnswer;
  readonly dirty: boolean;
}) {
  const zone = here.course.timeZone;
  return (
    <div className="mt-1">
      <p className="text-[14px] text-ink-2">
        The rules that are on now, replayed since <When at={effect.from} zone={zone} />
        {dirty
          ? ', with the saved limits and with your changes.'
          : '. Change a limit to see what it would have changed.'}
      </p>
      <table className="mt-3 w-full text-[14.5px]">
        <thead>
          <tr className="border-b border-line text-left text-[13px] text-ink-3">
            <th className="py-1 font-normal">Nudges</th>
            <th className="w-20 py-1 text-right font-normal">as saved</th>
            <th className="w-24 py-1 text-right font-normal">with your changes</th>
          </tr>
        </thead>
        <tbody>
          {ROWS.map(([key, words]) => {
            const [was, is] = [effect.before[key], effect.after[key]];
            return (
              <tr key={key} className="border-b border-line">
                <td className="py-1">{words}</td>
                <td className="text-right font-num">{was}</td>
                <td className="text-right font-num">
                  {is === was ? <span className="text-ink-3">{is}</span> : <strong className="marked">{is}</strong>}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {effect.changed > 0 && (
        <>
          <h3 className="mt-4 text-[15px] font-bold">{plural(effect.changed, 'nudge')} would have been different</h3>
          <ul className="mt-1 max-h-[340px] overflow-auto" tabIndex={0} aria-label="What would have changed">
            {effect.changes.map((c, i) => (
              <li key={i} className="border-b border-line py-1.5 text-[14px]">
                <span className="flex justify-between gap-3">
                  <strong className="truncate">{c.studentName}</strong>
                  <span className="whitespace-nowrap text-ink-2">
                    <When at={c.round} zone={zone} />
                  </span>
                </span>
                <span className="text-ink-2">
                  {c.ruleName}: {sideWords(c.before, here)} →{' '}
                  <span className="text-ink">{sideWords(c.after, here)}</span>
                </span>
              </li>
            ))}
          </ul>
          {effect.changed > effect.changes.length && (
            <p className="mt-1 text-[14px] text-ink-2">and {effect.changed - effect.changes.length} more</p>
          )}
        </>
      )}
      {dirty && effect.changed === 0 && <p className="mt-3">This would have changed nothing.</p>}
    </div>
  );
}

function sideWords(side: LimitSide, here: CourseHere) {
  if (side.outcome === 'none') return 'no check';
  if (side.outcome === 'withheld') return `held back: ${WITHHELD_WORDS[side.reason as WithheldReason]}`;
  if (side.outcome === 'held') return 'waiting for you';
  if (side.outcome === 'withdrawn') return 'canceled';
  return (
    <>
      sent <When at={side.sendAt!} zone={here.course.timeZone} />
    </>
  );
}
