/** Nudges that wait for a decision, the most urgent first: evidence, the message as it reads now, and what becomes of it. */
import { useEffect, useRef, useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { plural, type TrayAnswer, type TrayDecided, type TrayLine } from '@zest-bell/core';
import { api, errorWords } from '../app/api.ts';
import { withdrawnWords } from '../app/decisionWords.ts';
import { useHere, type Here } from '../app/here.ts';
import { PlaceHead } from '../app/PlaceHead.tsx';
import { refreshAll } from '../app/queries.ts';
import { track } from '../sendings/sendings.ts';
import { Button } from '../ui/Button.tsx';
import { Chip } from '../ui/Chip.tsx';
import { Empty, Failed, Loading } from '../ui/States.tsx';
import { DismissDialog } from './DismissDialog.tsx';
import { LaterDialog } from './LaterDialog.tsx';
import { TextDialog } from './TextDialog.tsx';
import { TrayDetail } from './TrayDetail.tsx';
import { HELD_WORDS, passesWords, toOrAbout } from './trayWords.ts';

type Asking = 'dismiss' | 'later' | 'text' | null;

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

export function TrayPage() {
  const here = useHere();
  const tray = useQuery({
    queryKey: ['tray', here.id, here.now],
    queryFn: () => api.get<TrayAnswer>(`/courses/${here.id}/tray`),
  });
  const [showLater, setShowLater] = useState(false);
  if (tray.isError) return <Failed error={tray.error} retry={() => void tray.refetch()} />;
  if (!tray.data) return <Loading what="the Tray" />;
  const { lines, later, waiting } = tray.data;
  const shown = lines.filter((l) => (l.later !== null) === showLater);
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <div className="px-5 pt-5 pb-3">
        <PlaceHead place="tray">
          {later > 0 && (
            <Button onClick={() => setShowLater(!showLater)}>
              {showLater ? 'Show what waits now' : `Show ${plural(later, 'nudge')} put off`}
            </Button>
          )}
        </PlaceHead>
      </div>
      {shown.length === 0 ? (
        <Empty title={showLater ? 'Nothing is put off' : 'Nothing is waiting for you'}>
          When a step asks you first, when a student has replied, or when a message would leave your institution, the
          nudge waits here. Nothing goes without you.
        </Empty>
      ) : (
        <Desk key={String(showLater)} here={here} lines={shown} all={showLater ? later : waiting - later} />
      )}
    </div>
  );
}

function Desk(props: {
  readonly here: Here;
  readonly lines: readonly TrayLine[];
  /** How many there are in all. */
  readonly all: number;
}) {
  const { here, lines, all } = props;
  const [chosen, setChosen] = useState<number | null>(null);
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const [asking, setAsking] = useState<Asking>(null);
  const [busy, setBusy] = useState(false);
  const list = useRef<HTMLUListElement>(null);
  const at = Math.max(
    0,
    lines.findIndex((l) => l.nudge === chosen),
  );
  const line = lines[at]!;
  const many = lines.filter((l) => ticked.has(l.nudge));
  const about = many.length > 0 ? many : [line];
  const go = (to: number) => {
    const next = lines[Math.min(lines.length - 1, Math.max(0, to))]!;
    setChosen(next.nudge);
    list.current?.querySelector(`[data-nudge="${next.nudge}"]`)?.scrollIntoView({ block: 'nearest' });
  };
  const tick = (nudge: number) => {
    const next = new Set(ticked);
    if (!next.delete(nudge)) next.add(nudge);
    setTicked(next);
  };
  const decide = async (order: object, said: (count: number) => string) => {
    setBusy(true);
    try {
      const nudges = about.map((l) => l.nudge);
      const done = await api.post<TrayDecided>(`/courses/${here.id}/tray/decide`, { ...order, nudges });
      const next = lines.slice(at + 1).find((l) => !nudges.includes(l.nudge));
      setChosen(next?.nudge ?? null);
      setTicked(new Set());
      setAsking(null);
      const waits = track(done.sending);
      const canceled = done.canceled.map((c) => `${c.name}: ${withdrawnWords(c.reason as never)}`);
      if (!waits)
        toast(done.done > 0 ? `${plural(done.done, 'nudge')} ${said(done.done)}.` : 'Nothing was sent.', {
          description: canceled.length > 0 ? `Not sent. ${canceled.join('; ')}.` : undefined,
          duration: canceled.length > 0 ? 12_000 : 5000,
        });
      await refreshAll();
    } catch (error) {
      toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  const approve = () => void decide({ as: 'send' }, (n) => (n === 1 ? 'is on its way' : 'are on their way'));

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || isTyping(e.target) || document.querySelector('[role=dialog]')) return;
      const act: Readonly<Record<string, () => void>> = {
        ArrowDown: () => go(at + 1),
        ArrowUp: () => go(at - 1),
        x: () => tick(line.nudge),
        s: approve,
        d: () => setAsking('dismiss'),
        l: () => setAsking('later'),
        e: () => setAsking('text'),
      };
      const chosenAct = act[e.key];
      if (!chosenAct || busy) return;
      e.preventDefault();
      chosenAct();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });

  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)] border-t border-line min-[900px]:grid-cols-[minmax(340px,1fr)_minmax(0,1.5fr)]">
      <div className="bg-sheet min-[900px]:border-r min-[900px]:border-line">
        <p role="status" className="border-b border-line px-5 py-2 text-[13px] text-ink-3">
          {plural(all, 'nudge')} waiting, the most urgent first
          {all > lines.length && `, ${lines.length} shown`}
          {many.length > 0 && `, ${many.length} chosen`}
        </p>
        <ul
          ref={list}
          aria-label="Waiting nudges"
          className="max-h-[40vh] overflow-auto min-[900px]:max-h-[calc(100dvh-260px)]"
        >
          {lines.map((l) => (
            <li
              key={l.nudge}
              data-nudge={l.nudge}
              className={`flex items-start gap-3 border-b border-line px-4 py-2.5 ${l === line ? 'bg-fog shadow-[inset_4px_0_0_var(--zest)]' : ''}`}
            >
              <input
                type="checkbox"
                aria-label={`Choose ${l.name}`}
                className="mt-1 size-4 accent-(--pine)"
                checked={ticked.has(l.nudge)}
                onChange={() => tick(l.nudge)}
              />
              <button aria-pressed={l === line} className="min-w-0 flex-1 text-left" onClick={() => setChosen(l.nudge)}>
                <strong className="block truncate">{l.name}</strong>
                <span className="block truncate text-[13.5px] text-ink-2">{l.ruleName}</span>
                <span className="mt-0.5 flex flex-wrap gap-1.5">
                  {l.stillTrue ? (
                    <Chip tone="iris">{HELD_WORDS[l.heldFor]}</Chip>
                  ) : (
                    <Chip tone="brass">no longer matches</Chip>
                  )}
                  {l.passesAt !== null && <Chip tone="tangerine">{passesWords(l.passesAt, here.now)}</Chip>}
                  {l.edited && <Chip tone="quiet">your own text</Chip>}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </div>
      <div className="min-w-0">
        <div
          role="toolbar"
          aria-label="Decide"
          className="flex flex-wrap items-center gap-2 border-b border-line bg-sheet px-6 py-3"
        >
          <Button look="main" busy={busy} onClick={approve}>
            {many.length > 0 ? `Send ${plural(many.length, 'nudge')}` : `Send ${toOrAbout(line)}`}
          </Button>
          <Button busy={busy} onClick={() => setAsking('dismiss')}>
            {many.length > 0 ? `Dismiss ${plural(many.length, 'nudge')}` : 'Dismiss'}
          </Button>
          <Button busy={busy} onClick={() => setAsking('later')}>
            Decide later
          </Button>
          {many.length === 0 && <Button onClick={() => setAsking('text')}>Change the text</Button>}
          <span className="ml-auto text-[13px] text-ink-3 max-[1100px]:hidden">
            <Key>S</Key> send <Key>D</Key> dismiss <Key>L</Key> later <Key>E</Key> text <Key>X</Key> choose <Key>↑</Key>
            <Key>↓</Key>
          </span>
        </div>
        <TrayDetail here={here} line={line} />
      </div>
      {asking === 'dismiss' && (
        <DismissDialog
          count={about.length}
          name={line.name}
          about={`${here.id} ${about.map((l) => l.nudge).join(' ')}`}
          busy={busy}
          onClose={() => setAsking(null)}
          onDismiss={(reason) => void decide({ as: 'dismiss', reason }, () => 'dismissed')}
        />
      )}
      {asking === 'later' && (
        <LaterDialog
          here={here}
          count={about.length}
          busy={busy}
          onClose={() => setAsking(null)}
          onLater={(until) => void decide({ as: 'later', until }, () => 'put off')}
        />
      )}
      {asking === 'text' && <TextDialog here={here} line={line} onClose={() => setAsking(null)} />}
    </div>
  );
}

const Key = ({ children }: { readonly children: string }) => (
  <kbd className="ml-2 rounded border border-line-strong px-1 font-num text-[12px]">{children}</kbd>
);
