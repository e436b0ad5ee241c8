/** Who changed what, when; and the way back, as long as nothing later builds on it. */
import { useState } from 'react';
import { useInfiniteQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { plural } from '@zest-bell/core/time';
import { reasonAbout, type ReasonLine } from '@zest-bell/core/exchange';
import type { ChangeCard, UndoAnswer } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { ask, linkTo, ApiProblem, errorWords } from '../../lib/api.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { ChangeLines } from '../../parts/files/ChangeLines.tsx';
import { CourseTabPage } from './CourseTabPage.tsx';
import { asksFirst, UndoDialog } from './UndoDialog.tsx';

export function ChangesPage() {
  const here = useHere();
  const changes = useInfiniteQuery({
    queryKey: ['changes', here.id],
    queryFn: ({ pageParam }) =>
      ask(contract.intake.changes, { course: here.id }, { query: { before: pageParam || undefined } }),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.more ? last.changes.at(-1)!.id : undefined),
  });
  const cards = changes.data?.pages.flatMap((p) => p.changes) ?? [];
  const reasons = changes.data?.pages.flatMap((p) => p.reasons) ?? [];
  const all = [
    ...cards.map((card) => ({ at: card.at, key: `change ${card.id}`, shown: <Change here={here} card={card} /> })),
    ...reasons.map((r) => ({ at: r.at, key: `why ${r.id}`, shown: <ReasonCard here={here} reason={r} /> })),
  ].sort((a, b) => b.at - a.at);
  return (
    <CourseTabPage here={here} tab="/changes">
      {changes.isError ? (
        <Failed error={changes.error} retry={() => void changes.refetch()} />
      ) : changes.isPending ? (
        <Loading what="the changes" />
      ) : all.length === 0 ? (
        <Empty title="No changes yet">
          Changes to people, items, and days are listed here, and you can undo them. So is why rules, wordings, and
          limits were changed, if anybody said so.
        </Empty>
      ) : (
        <ol className="grid max-w-[980px] grid-cols-[minmax(0,1fr)] gap-3" aria-label="Changes">
          {all.map(({ key, shown }) => (
            <li key={key} className="rounded-[14px] border border-line bg-sheet px-5 py-3.5">
              {shown}
            </li>
          ))}
        </ol>
      )}
      {changes.hasNextPage && (
        <p className="mt-3">
          <Button onClick={() => changes.fetchNextPage()}>Show older changes</Button>
        </p>
      )}
    </CourseTabPage>
  );
}

function Change({ here, card }: { readonly here: CourseHere; readonly card: ChangeCard }) {
  const [busy, setBusy] = useState(false);
  const [why, setWhy] = useState<readonly string[]>([]);
  const [ahead, setAhead] = useState<UndoAnswer | null>(null);
  const trying = async (work: () => Promise<void>) => {
    setBusy(true);
    try {
      await work();
    } catch (error) {
      const reasons = error instanceof ApiProblem ? error.problems.map((p) => p.message) : [];
      setWhy(reasons.length > 0 ? reasons : [errorWords(error)]);
      setAhead(null);
    } finally {
      setBusy(false);
    }
  };
  const where = { course: here.id, change: card.id };
  const undo = () =>
    trying(async () => {
      const done = await ask(contract.intake.undo, where);
      await refreshAll();
      setAhead(null);
      toast(`${done.title}.`);
    });
  /** A change that nothing happened by is undone at once. */
  const look = () =>
    trying(async () => {
      const found = await ask(contract.intake.undoAhead, where);
      setWhy(found.against);
      if (found.against.length > 0) return;
      if (asksFirst(found)) setAhead(found);
      else await undo();
    });
  const facts = [
    card.events > 0 && plural(card.events, 'event'),
    card.grades > 0 && plural(card.grades, 'grade'),
    card.retracted > 0 && `${plural(card.retracted, 'fact')} taken back`,
  ].filter(Boolean);
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <strong className="min-w-0 flex-1 basis-72">{card.title}</strong>
        <span className="text-[14px] text-ink-2">
          {card.by}, <When at={card.at} zone={here.course.timeZone} />
        </span>
        {card.undone ? (
          <Chip tone="quiet">undone</Chip>
        ) : (
          card.kind !== 'undo' && (
            <Button needs="data.write" busy={busy} onClick={() => look()}>
              Undo
            </Button>
          )
        )}
      </div>
      {ahead && (
        <UndoDialog
          title={card.title}
          ahead={ahead}
          busy={busy}
          onClose={() => setAhead(null)}
          onUndo={() => void undo()}
        />
      )}
      {facts.length > 0 && <p className="text-[14px] text-ink-2">{facts.join(', ')}</p>}
      {why.length > 0 && (
        <div role="alert" className="mt-2 rounded-xl bg-tangerine-soft px-4 py-2.5 text-[14px] text-tangerine-text">
          ▲ This cannot be undone, because something later builds on it:
          <ul className="list-disc pl-5">
            {why.map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
        </div>
      )}
      {card.lines.length > 0 && (
        <details className="mt-1 text-[14px]">
          <summary className="text-ink-2">{plural(card.all, 'difference')}</summary>
          <ChangeLines lines={card.lines} all={card.all} />
        </details>
      )}
      {card.import !== null && card.refused > 0 && (
        <a
          className="text-[14px] font-semibold text-pine underline underline-offset-4"
          href={linkTo(contract.intake.refused, { course: here.id, import: card.import })}
          download
        >
          {`Download ${plural(card.refused, 'refused row')}`}
        </a>
      )}
    </>
  );
}

/** Why something that runs was changed; it is undone where it is changed. */
function ReasonCard({ here, reason }: { readonly here: CourseHere; readonly reason: ReasonLine }) {
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <strong className="min-w-0 flex-1 basis-72">Changed {reasonAbout(reason)}</strong>
        <span className="text-[14px] text-ink-2">
          {reason.by}, <When at={reason.at} zone={here.course.timeZone} />
        </span>
      </div>
      <p className="break-words">“{reason.words}”</p>
    </>
  );
}
