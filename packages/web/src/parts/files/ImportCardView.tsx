/** A file before it is taken: what it is, how each column is read, what would change, what is refused and why. */
import { useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { numberWords, plural } from '@zest-bell/core/time';
import {
  IMPORT_KINDS,
  TABLE_KINDS,
  type ImportDecisions,
  type ImportKind,
  type ImportPreview,
} from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient, refreshAll } from '../../lib/queries.ts';
import { ChangeLines } from './ChangeLines.tsx';
import { sayChanged } from '../editing/useEdit.ts';
import { Button } from '../../ui/Button.tsx';
import { Check } from '../../ui/fields.tsx';
import { Failed } from '../common/States.tsx';
import { Columns } from './Columns.tsx';
import { HeaderRows, SAY_WHAT_IT_IS } from './HeaderRows.tsx';
import { KIND_WORDS } from './kindWords.ts';
import { Refusals } from './Refusals.tsx';

const CORRECTABLE: ReadonlySet<ImportKind | null> = new Set<ImportKind | null>([
  'activity',
  'gradebook',
  'attendance',
  'lastSeen',
]);

/** Another sheet has other columns and other rows. */
const ANEW: Partial<ImportDecisions> = { header: undefined, isSure: undefined, outOf: {}, told: {}, mended: {} };

export function ImportCardView(props: {
  readonly here: CourseHere;
  readonly id: number;
  readonly onSettled?: () => void;
}) {
  const { here, id } = props;
  const path = { course: here.id, import: id };
  const [busy, setBusy] = useState(false);
  const preview = useQuery({
    queryKey: ['data', here.id, 'import', id, here.answer.version],
    queryFn: ({ signal }) => ask(contract.intake.preview, path, { signal }),
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (preview.isPending)
    return <p className="rounded-[16px] border border-line bg-sheet px-5 py-4 text-ink-3">Reading the file …</p>;
  if (preview.isError) return <Failed error={preview.error} retry={() => void preview.refetch()} />;
  const seen = preview.data;
  const decide = async (part: Partial<ImportDecisions>) => {
    setBusy(true);
    await attempt(() => ask(contract.intake.decide, path, { body: { ...seen.decisions, ...part } }));
    await preview.refetch();
    setBusy(false);
  };
  const discard = async () => {
    await attempt(() => ask(contract.intake.leave, path));
    await queryClient.invalidateQueries({ queryKey: ['data', here.id] });
    props.onSettled?.();
  };
  const take = async () => {
    setBusy(true);
    const answer = await attempt(() => ask(contract.intake.take, path));
    await refreshAll();
    setBusy(false);
    if (!answer) return;
    if (answer.change === null) toast('This file has nothing new.');
    else sayChanged(here, answer);
    props.onSettled?.();
  };
  return (
    <article
      aria-label={seen.name}
      aria-busy={busy}
      className="min-w-0 rounded-[16px] border border-line bg-sheet px-5 py-4"
    >
      <header className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <h3 className="min-w-0 flex-1 basis-56 truncate text-[17px] font-bold">{seen.name}</h3>
        {seen.kind && (
          <select
            aria-label="What this file is"
            className="field"
            value={seen.kind}
            onChange={(e) => void decide({ kind: e.target.value as ImportKind, told: {}, mended: {} })}
          >
            {(seen.columns.length > 0
              ? [...TABLE_KINDS, ...(seen.kind === 'oneroster' ? [seen.kind] : [])]
              : IMPORT_KINDS.filter((k) => k === seen.kind)
            ).map((kind) => (
              <option key={kind} value={kind}>
                {KIND_WORDS[kind].name}
              </option>
            ))}
          </select>
        )}
        {seen.sheets.length > 1 && (
          <select
            aria-label="Sheet"
            className="field"
            value={seen.sheet ?? ''}
            onChange={(e) => void decide({ sheet: e.target.value, ...ANEW })}
          >
            {seen.sheets.map((sheet) => (
              <option key={sheet} value={sheet}>
                {sheet}
              </option>
            ))}
          </select>
        )}
      </header>
      {seen.trouble !== null ? (
        <p role="alert" className="mt-2 rounded-xl bg-tangerine-soft px-4 py-2.5 text-tangerine-text">
          ▲ {seen.trouble} Nothing was changed.{seen.columns.length > 0 && ` ${SAY_WHAT_IT_IS}`}
        </p>
      ) : null}
      <HeaderRows seen={seen} onDecide={(part) => void decide(part)} />
      {seen.trouble !== null && seen.columns.length > 0 && (
        <Columns here={here} seen={seen} onDecide={(part) => void decide(part)} />
      )}
      {seen.trouble === null && (
        <>
          <p role="status" className="mt-1 text-ink-2">
            {seen.titles.length > 0 && `${seen.titles.slice(0, 2).join(', ')}. `}
            {seen.kind && `${KIND_WORDS[seen.kind].about}. `}
            <strong className="text-ink">{countWords(seen)}</strong>
            {seen.remembered && ' Columns are read as they were the last time.'}
          </p>
          {seen.columns.length > 0 && <Columns here={here} seen={seen} onDecide={(part) => void decide(part)} />}
          <Refusals seen={seen} here={here} onDecide={(part) => void decide(part)} />
          {seen.letters && <Letters scale={seen.letters} />}
          {CORRECTABLE.has(seen.kind) && (
            <div className="mt-2">
              <Check
                label="Take back what these rows say, because they were wrong"
                checked={seen.decisions.isCorrection ?? false}
                onChange={(isCorrection) => void decide({ isCorrection })}
              />
            </div>
          )}
          {seen.missing.length > 0 && (
            <div className="mt-2">
              <Check
                label={`Make ${plural(seen.missing.length, 'student')} inactive who ${seen.missing.length === 1 ? 'is' : 'are'} not in this file: ${seen.missing.slice(0, 6).join(', ')}${seen.missing.length > 6 ? ' …' : ''}`}
                checked={seen.decisions.missing === 'inactive'}
                onChange={(inactive) => void decide({ missing: inactive ? 'inactive' : 'keep' })}
              />
            </div>
          )}
          <Differences seen={seen} />
          {seen.rules.length > 0 && (
            <p className="mt-2 text-[14px] text-ink-2">Rules that look at what changes: {seen.rules.join('; ')}</p>
          )}
        </>
      )}
      <footer className="mt-3 flex flex-wrap gap-2">
        {seen.trouble === null && (
          <Button needs="data.write" look="main" busy={busy} disabled={nothingToTake(seen)} onClick={() => take()}>
            {takeWords(seen)}
          </Button>
        )}
        <Button needs="data.write" onClick={() => discard()}>
          Discard file
        </Button>
      </footer>
    </article>
  );
}

const nothingToTake = (seen: ImportPreview): boolean =>
  seen.allLines === 0 && seen.events === 0 && seen.allGrades === 0 && seen.retracted === 0;

function takeWords(seen: ImportPreview): string {
  if (nothingToTake(seen)) return 'Nothing to take';
  if (seen.decisions.isCorrection) return `Take back ${plural(seen.retracted, 'fact')}`;
  const { counts } = seen;
  return counts.refused > 0 ? 'Take what fits' : 'Take this file';
}

function countWords({ counts, kind }: ImportPreview): string {
  const what = kind === 'gradebook' || kind === 'attendance' ? 'cell' : 'row';
  const isMore = counts.new + counts.changed + counts.refused > 0;
  const parts = [
    `${plural(counts.read, 'row')} read`,
    counts.new > 0 && `${numberWords(counts.new)} new`,
    counts.changed > 0 && `${numberWords(counts.changed)} changed`,
    counts.same > 0 && isMore && `${numberWords(counts.same)} the same`,
    !isMore && counts.read > 0 && 'nothing new',
    counts.refused > 0 && `${plural(counts.refused, what)} refused`,
  ];
  return `${parts.filter(Boolean).join(', ')}.`;
}

/** The scale by which letters are read, before anything is taken. */
const Letters = ({ scale }: { readonly scale: Readonly<Record<string, number>> }) => (
  <p className="mt-2 text-[14px] text-ink-2">
    Letters are read as percents:{' '}
    {Object.entries(scale)
      .map(([letter, percent]) => `${letter} ${numberWords(percent)}`)
      .join(', ')}
    .
  </p>
);

function Differences({ seen }: { readonly seen: ImportPreview }) {
  const facts = [
    seen.events > 0 && plural(seen.events, 'event'),
    seen.allGrades > 0 && plural(seen.allGrades, 'grade'),
  ].filter(Boolean);
  if (seen.allLines === 0 && facts.length === 0) return null;
  return (
    <details className="mt-3" open={seen.allLines + seen.allGrades <= 12}>
      <summary className="font-semibold">What would change</summary>
      {facts.length > 0 && <p className="mt-1 text-[14px]">{facts.join(' and ')} would be added.</p>}
      {seen.grades.length > 0 && (
        <ul className="mt-1 grid max-h-56 gap-0.5 overflow-auto text-[14px]">
          {seen.grades.map((g, i) => (
            <li key={i}>
              <strong>{g.student}</strong>, {g.item}:{' '}
              {g.from !== null && <span className="text-ink-2 line-through">{numberWords(g.from)}</span>}{' '}
              {g.from !== null && '→ '}
              {numberWords(g.to)}
            </li>
          ))}
          {seen.allGrades > seen.grades.length && (
            <li className="text-ink-3">and {seen.allGrades - seen.grades.length} more</li>
          )}
        </ul>
      )}
      <div className="max-h-72 overflow-auto">
        <ChangeLines lines={seen.lines} all={seen.allLines} />
      </div>
    </details>
  );
}
