/** Which item is which: both lists side by side, a line for each pair; proposed ones to be confirmed, dragged or chosen by keys. */
import { useState, type DragEvent } from 'react';
import { plural } from '@zest-bell/core/time';
import { likelyMatches, type ItemMatch } from '@zest-bell/core/carry';
import type { CarryItem } from '@zest-bell/core/exchange';
import { ITEM_KIND_WORDS } from '../../parts/common/itemKindWords.ts';
import { Button } from '../../ui/Button.tsx';
import { When } from '../../ui/When.tsx';
import { paired, rulesAlong, type CarryPart } from './choices.ts';
import { Section } from './Section.tsx';

/** Height of a row in px: lines between the lists are drawn by it. */
const ROW = 54;
const GAP = 72;

export function MatchPart({ here, preview, choices, set }: CarryPart) {
  const [all, setAll] = useState(false);
  const [dragged, setDragged] = useState<string | null>(null);
  const named = new Set(rulesAlong(preview, choices).flatMap((r) => r.items));
  const lines = new Map(preview.items.map((m) => [m.from, m]));
  const left = preview.source.items.filter((i) => all || named.has(i.id));
  const hidden = preview.source.items.length - left.length;
  const order = new Map(left.map((i, n) => [i.id, n]));
  const place = (id: string): number => {
    const from = preview.items.find((m) => m.to === id)?.from;
    return from === undefined ? Infinity : (order.get(from) ?? Infinity);
  };
  // What belongs together is beside each other as far as it can.
  const kinds = new Set(left.map((i) => i.kind));
  const right = here.course.items.filter((i) => kinds.has(i.kind)).sort((a, b) => place(a.id) - place(b.id));
  const rows = new Map(right.map((i, n) => [i.id, n]));
  const likely = likelyMatches(preview.source.items, here.course.items, preview.items);
  const titleOf = (id: string) => here.course.items[here.course.itemIndex.get(id)!]!.title;
  const tell = (from: string, to: string | null) => set({ told: paired(preview, choices.told, from, to) });

  if (choices.withItems)
    return (
      <Section
        title="2. How items match"
        note={`All ${preview.source.items.length} items come along, so each rule finds its own.`}
      >
        {null}
      </Section>
    );
  if (named.size === 0 && !all)
    return (
      <Section title="2. How items match" note="The chosen rules name no item, so there is nothing to match.">
        {null}
      </Section>
    );
  return (
    <Section
      title="2. How items match"
      note="Items are matched within one kind, by id and title. Dashed lines only look alike: confirm them, or choose another item."
    >
      <div className="mt-2">
        <div className="grid min-[760px]:grid-cols-[minmax(0,1fr)_72px_minmax(0,1fr)]">
          <div>
            <h3 className="text-[13px] font-semibold text-ink-2">{preview.source.code}</h3>
            <ul aria-label={`Items of ${preview.source.code}`}>
              {left.map((item) => (
                <SourceRow
                  key={item.id}
                  item={item}
                  line={lines.get(item.id)!}
                  zone={preview.source.timeZone}
                  likely={
                    likely.has(item.id) ? { id: likely.get(item.id)!, title: titleOf(likely.get(item.id)!) } : null
                  }
                  candidates={right.filter((r) => r.kind === item.kind)}
                  dragged={
                    dragged !== null && right.some((r) => r.id === dragged && r.kind === item.kind) ? dragged : null
                  }
                  onTell={(to) => tell(item.id, to)}
                />
              ))}
            </ul>
          </div>
          <svg
            aria-hidden
            width={GAP}
            height={Math.max(left.length, right.length) * ROW}
            className="mt-5 overflow-visible max-[759px]:hidden"
          >
            {left.map((item, n) => {
              const { to, how } = lines.get(item.id)!;
              const row = to === null ? undefined : rows.get(to);
              if (row === undefined) return null;
              const [y1, y2] = [n * ROW + ROW / 2, row * ROW + ROW / 2];
              return (
                <path
                  key={item.id}
                  d={`M4 ${y1} C ${GAP / 2} ${y1}, ${GAP / 2} ${y2}, ${GAP - 4} ${y2}`}
                  fill="none"
                  strokeWidth={2}
                  strokeDasharray={how === 'alike' ? '5 5' : undefined}
                  className={how === 'alike' ? 'stroke-tangerine' : 'stroke-pine'}
                />
              );
            })}
          </svg>
          <div className="max-[759px]:hidden">
            <h3 className="text-[13px] font-semibold text-ink-2">{here.course.code}</h3>
            {right.length === 0 && (
              <p className="py-3 text-[14px] text-ink-2">
                {preview.mayBringItems
                  ? 'This course has no items yet. Bring them in first, or bring the old ones along above.'
                  : 'This course has no items of these kinds.'}
              </p>
            )}
            <ul aria-label={`Items of ${here.course.code}`}>
              {right.map((item) => (
                <li
                  key={item.id}
                  draggable
                  onDragStart={(e) => {
                    e.dataTransfer.setData('text/plain', item.id);
                    setDragged(item.id);
                  }}
                  onDragEnd={() => setDragged(null)}
                  style={{ height: ROW }}
                  className="cursor-grab border-b border-line py-1.5"
                >
                  <ItemWords title={item.title} kind={item.kind} dueAt={item.dueAt} zone={here.course.timeZone} />
                </li>
              ))}
            </ul>
          </div>
        </div>
      </div>
      {(hidden > 0 || all) && (
        <Button look="quiet" className="mt-2" onClick={() => setAll(!all)}>
          {all ? 'Show only the items that rules name' : `Show ${plural(hidden, 'other item')}`}
        </Button>
      )}
    </Section>
  );
}

function SourceRow(props: {
  readonly item: CarryItem;
  readonly line: ItemMatch;
  readonly zone: string;
  /** What it may be here, where nothing matches it. */
  readonly likely: { readonly id: string; readonly title: string } | null;
  readonly candidates: readonly { readonly id: string; readonly title: string }[];
  /** The item that is being dragged, where it may be dropped here. */
  readonly dragged: string | null;
  readonly onTell: (to: string | null) => void;
}) {
  const { item, line, dragged, onTell } = props;
  const drop = (e: DragEvent) => {
    e.preventDefault();
    if (dragged !== null) onTell(dragged);
  };
  return (
    <li
      style={{ minHeight: ROW }}
      onDragOver={(e) => dragged !== null && e.preventDefault()}
      onDrop={drop}
      className={`flex items-center gap-2 border-b border-line max-[759px]:flex-wrap max-[759px]:py-2 min-[760px]:h-[54px] ${dragged === null ? '' : 'bg-zest-soft'}`}
    >
      <div className="min-w-0 flex-1 max-[759px]:basis-full">
        <ItemWords title={item.title} kind={item.kind} dueAt={item.dueAt} zone={props.zone} />
      </div>
      {line.how === 'alike' && <Button onClick={() => onTell(line.to)}>Confirm match</Button>}
      {props.likely && (
        <Button title={`Match it with “${props.likely.title}”`} onClick={() => onTell(props.likely!.id)}>
          Is it “{props.likely.title}”?
        </Button>
      )}
      <select
        aria-label={`What ${item.title} is here`}
        className={`field w-40 shrink-0 ${line.to === null && line.how !== 'told' ? 'border-tangerine' : ''}`}
        value={line.to ?? ''}
        onChange={(e) => onTell(e.target.value === '' ? null : e.target.value)}
      >
        <option value="">No match</option>
        {props.candidates.map((c) => (
          <option key={c.id} value={c.id}>
            {c.title}
          </option>
        ))}
      </select>
    </li>
  );
}

function ItemWords(props: {
  readonly title: string;
  readonly kind: CarryItem['kind'];
  readonly dueAt: number | null;
  readonly zone: string;
}) {
  return (
    <>
      <span className="block truncate text-[14.5px] font-semibold">{props.title}</span>
      <span className="block truncate text-[13px] text-ink-2">
        {ITEM_KIND_WORDS[props.kind]}
        {props.dueAt !== null && (
          <>
            , due <When at={props.dueAt} zone={props.zone} />
          </>
        )}
      </span>
    </>
  );
}
