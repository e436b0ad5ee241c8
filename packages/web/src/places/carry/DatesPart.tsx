/** Each rule's run on the two terms, one under the other, and what of its dates somebody has to look at. */
import { dateWords, dayNumberOf } from '@zest-bell/core/time';
import type { CarryRuleLine, RunDays } from '@zest-bell/core/exchange';
import { carryProblemWords } from '../../lib/carryWords.ts';
import { rulesAlong, type CarryPart } from './choices.ts';

interface NewTerm {
  readonly code: string;
  readonly start: string;
  readonly end: string;
}

export function DatesPart({ here, preview, choices }: CarryPart) {
  const rules = rulesAlong(preview, choices);
  const { code, start, end } = here.course;
  return (
    <ul aria-label="When each rule runs" className="mt-1">
      {rules.map((rule) => (
        <li
          key={rule.from}
          className="grid gap-x-6 gap-y-1 border-b border-line py-2.5 last:border-b-0 min-[760px]:grid-cols-[minmax(0,1fr)_minmax(0,1.6fr)]"
        >
          <div>
            <strong>{rule.name}</strong>
            {rule.problems
              .filter((p) => p.code === 'dates' || p.code === 'sections')
              .map((p) => (
                <p key={p.path} className="text-[14px] text-tangerine-text">
                  ▲ {carryProblemWords(p)}
                </p>
              ))}
          </div>
          <Runs rule={rule} before={preview.source} after={{ code, start, end }} />
        </li>
      ))}
    </ul>
  );
}

function Runs({
  rule,
  before,
  after,
}: {
  readonly rule: CarryRuleLine;
  readonly before: NewTerm;
  readonly after: NewTerm;
}) {
  return (
    <div className="grid gap-1">
      <Run term={before} run={rule.before} look="bg-strip-ink/60" />
      <Run term={after} run={rule.after} look="bg-zest" />
    </div>
  );
}

function Run({ term, run, look }: { readonly term: NewTerm; readonly run: RunDays; readonly look: string }) {
  const first = dayNumberOf(term.start);
  const length = dayNumberOf(term.end) + 1 - first;
  const at = (day: number) => Math.min(1, Math.max(0, (day - first) / length));
  const [from, until] = [at(dayNumberOf(run.from)), at(dayNumberOf(run.until) + 1)];
  return (
    <div className="grid grid-cols-[5.5rem_minmax(0,1fr)_13rem] items-center gap-2 text-[13.5px] max-[560px]:grid-cols-[5.5rem_minmax(0,1fr)]">
      <span className="truncate text-ink-2">{term.code}</span>
      <span aria-hidden className="relative h-4 overflow-hidden rounded bg-strip">
        <i
          className={`absolute inset-y-1 rounded-sm ${look}`}
          style={{ left: `${from * 100}%`, width: `${Math.max(0.01, until - from) * 100}%` }}
        />
      </span>
      <span className="font-num text-[12.5px] whitespace-nowrap max-[560px]:col-span-2">
        {dateWords(run.from)} to {dateWords(run.until)}
      </span>
    </div>
  );
}
