/** What of a file is not taken, those of one reason together: asked about, or mended in place before the file is taken. */
import { useState, type FormEvent } from 'react';
import { plural } from '@zest-bell/core/time';
import type { ImportDecisions, ImportPreview } from '@zest-bell/core/imports';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { DayOrderQuestion, ItemQuestion, OverQuestion, PersonQuestion } from './Questions.tsx';

interface RefusalsProps {
  readonly here: Pick<CourseHere, 'course'>;
  readonly seen: ImportPreview;
  readonly onDecide: (part: Partial<ImportDecisions>) => void;
}

type RefusedEntry = ImportPreview['refused'][number];

/** Questions that are shown at once. */
const MOST = 12;

export function Refusals(props: RefusalsProps) {
  const { seen } = props;
  if (seen.counts.refused === 0) return null;
  return (
    <section aria-label="What is not taken" className="mt-3 rounded-xl bg-tangerine-soft px-4 py-3">
      <h4 className="text-[15px] font-bold text-tangerine-text">▲ {plural(seen.counts.refused, 'refusal')}</h4>
      <Asked {...props} />
      <ul className="mt-1 grid gap-1">
        {reasonsOf(seen.refused).map((lines) => (
          <Reason key={`${lines[0]!.code} ${lines[0]!.column ?? ''}`} {...props} lines={lines} />
        ))}
      </ul>
      {seen.counts.refused > seen.refused.length && (
        <p className="text-[14px] text-ink-2">and {seen.counts.refused - seen.refused.length} more</p>
      )}
      <p className="mt-1 text-[13.5px] text-ink-2">
        After you take the file, you can download the rows that you left as they are, correct them, and bring them in
        again.
      </p>
    </section>
  );
}

/** Questions that stand at no column of a sheet: who somebody is, and in a list of facts which item is meant. */
function Asked({ here, seen, onDecide }: RefusalsProps) {
  const isSheet = !seen.columns.some((c) => c.as === 'fact');
  const asked = seen.questions.filter((q) => !isSheet || q.about === 'person');
  const { choices } = seen.decisions;
  if (asked.length === 0) return null;
  return (
    <div className="mt-2 mb-2 grid gap-3 min-[700px]:grid-cols-2" role="group" aria-label="Questions about this file">
      {asked.slice(0, MOST).map((q) => {
        switch (q.about) {
          case 'person':
            return (
              <PersonQuestion
                key={q.said}
                question={q}
                people={here.course.people}
                onChoose={(person) =>
                  onDecide({ choices: { ...choices, people: { ...choices?.people, [q.said]: person } } })
                }
              />
            );
          case 'item':
            return (
              <ItemQuestion
                key={q.said}
                question={q}
                items={here.course.items}
                onChoose={(item) => onDecide({ choices: { ...choices, items: { ...choices?.items, [q.said]: item } } })}
              />
            );
          case 'over':
            return (
              <OverQuestion
                key={q.item}
                question={q}
                onChoose={(over) => onDecide({ choices: { ...choices, over: { ...choices?.over, [q.item]: over } } })}
              />
            );
          case 'dayOrder':
            return (
              <DayOrderQuestion
                key={q.column}
                question={q}
                onChoose={(order) => onDecide({ dayOrders: { ...seen.decisions.dayOrders, [q.column]: order } })}
              />
            );
        }
      })}
      {asked.length > MOST && (
        <p className="text-[14px] text-ink-2">and {asked.length - MOST} more, once these are answered</p>
      )}
    </div>
  );
}

/** Refusals of one reason in one column. */
function reasonsOf(refused: readonly RefusedEntry[]): RefusedEntry[][] {
  const reasons = new Map<string, RefusedEntry[]>();
  for (const line of refused) {
    const key = JSON.stringify([line.part ?? '', line.code, line.column]);
    const known = reasons.get(key);
    if (known) known.push(line);
    else reasons.set(key, [line]);
  }
  return [...reasons.values()];
}

const rowWords = (lines: readonly RefusedEntry[]): string => {
  const rows = [...new Set(lines.map((l) => l.line))];
  const shown = rows.slice(0, 6).join(', ');
  return `${rows.length === 1 ? 'row' : 'rows'} ${shown}${rows.length > 6 ? ' …' : ''}`;
};

function Reason({ seen, onDecide, lines }: RefusalsProps & { readonly lines: readonly RefusedEntry[] }) {
  const [open, setOpen] = useState(false);
  const [first] = lines;
  const where = [first!.part, first!.column].filter(Boolean).join(': ');
  const mendable = lines.filter((l) => l.said !== null && l.column !== null && l.row > 1);
  return (
    <li className="border-t border-tangerine/30 py-1 text-[14px]">
      <span className="flex flex-wrap items-baseline gap-x-3">
        <span className="min-w-0 flex-1 basis-72">
          {where !== '' && <strong>{where}: </strong>}
          {first!.message}
          {lines.length > 1 ? `, and ${lines.length - 1} more like it` : ''} ({rowWords(lines)})
        </span>
        {mendable.length > 0 && (
          <button
            type="button"
            aria-expanded={open}
            className="font-semibold text-pine underline-offset-4 hover:underline"
            onClick={() => setOpen(!open)}
          >
            {open ? 'Close' : 'Mend here'}
          </button>
        )}
      </span>
      {open && (
        <ul className="mt-1 grid gap-1.5">
          {mendable.map((line) => (
            <li key={line.row}>
              <Mend
                line={line}
                onMend={(text) =>
                  onDecide({
                    mended: {
                      ...seen.decisions.mended,
                      [line.row]: { ...seen.decisions.mended?.[String(line.row)], [line.column!]: text },
                    },
                  })
                }
              />
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

function Mend({ line, onMend }: { readonly line: RefusedEntry; readonly onMend: (text: string) => void }) {
  const [text, setText] = useState(line.said ?? '');
  const submit = (e: FormEvent) => {
    e.preventDefault();
    onMend(text);
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-center gap-2">
      <label className="flex items-center gap-2">
        <span className="font-num text-[13px]">row {line.line}</span>
        <input
          aria-label={`${line.column!}, row ${line.line}`}
          className="field min-h-8 w-56 py-0.5"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      <Button type="submit" disabled={text === line.said}>
        Use this
      </Button>
    </form>
  );
}
