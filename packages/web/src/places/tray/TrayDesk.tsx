/** What waits, the most urgent first: evidence, the message as it reads now, and what becomes of it. Its lines may be of several courses. */
import { DropdownMenu } from 'radix-ui';
import { menuItem } from '../../ui/menu.ts';
import { useMedia } from '../../ui/useMedia.ts';
import { useEffect, useMemo, useState } from 'react';
import { ArrowLeft, Ellipsis } from 'lucide-react';
import { toast } from 'sonner';
import { plural } from '@zest-bell/core/time';
import type { Capability } from '@zest-bell/core/access';
import type { TrayLine } from '@zest-bell/core/exchange';
import { errorWords } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { withdrawnWords } from '../../lib/decisionWords.ts';
import type { CourseHere } from '../../lib/here.ts';
import { useCourseHere } from '../../lib/useCourseHere.ts';
import { refreshAll, refreshUntil } from '../../lib/queries.ts';
import { track } from '../../lib/sendings.ts';
import { AllowedContext, type PermissionCheck } from '../../ui/Allowed.tsx';
import { Button } from '../../ui/Button.tsx';
import { Loading } from '../../parts/common/States.tsx';
import { decideEach, type DeskLine, type TrayDecision } from './decide.ts';
import { DismissDialog } from './DismissDialog.tsx';
import { LaterDialog } from './LaterDialog.tsx';
import { TextDialog } from './TextDialog.tsx';
import { TrayDetail } from './TrayDetail.tsx';
import { TrayList } from './TrayList.tsx';
import { toOrAbout, trayEntries, type TrayEntry } from './trayWords.ts';
import { ListAndDetail } from '../../ui/ListAndDetail.tsx';

type TrayQuestion = 'dismiss' | 'later' | 'text' | null;

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));

export function TrayDesk(props: {
  readonly here: CourseHere;
  readonly lines: readonly DeskLine[];
  /** How many there are in all. */
  readonly all: number;
  /** Whether the lines are of several courses: each says of which. */
  readonly everywhere?: boolean;
}) {
  const { lines, all, everywhere = false } = props;
  const [chosen, setChosen] = useState<string | null>(null);
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  /** On a phone the list gives way to the message that was chosen. */
  const [reading, setReading] = useState(false);
  const [asking, setAsking] = useState<TrayQuestion>(null);
  const [busy, setBusy] = useState(false);
  const isPhone = useMedia('(max-width: 559px)');
  const entries = useMemo(() => trayEntries(lines, opened), [lines, opened]);
  const at = Math.max(
    0,
    entries.findIndex((e) => e.key === chosen),
  );
  const entry = entries[at]!;
  const line = entry.lines[0]! as DeskLine;
  const here = useCourseHere(line.course, props.here);
  const many = lines.filter((l) => ticked.has(l.nudge));
  const about = many.length > 0 ? many : (entry.lines as readonly DeskLine[]);
  const single = about.length === 1;
  const choose = (next: TrayEntry) => setChosen(next.key);
  const go = (to: number) => choose(entries[Math.min(entries.length - 1, Math.max(0, to))]!);
  const tick = (own: TrayEntry) => {
    const next = new Set(ticked);
    const all = own.lines.every((l) => next.has(l.nudge));
    for (const l of own.lines)
      if (all) next.delete(l.nudge);
      else next.add(l.nudge);
    setTicked(next);
  };
  const open = (key: string) => {
    const next = new Set(opened);
    if (!next.delete(key)) next.add(key);
    setOpened(next);
  };
  /** `back` takes it back; what is sent has a wait of its own for that. */
  const decide = async (order: TrayDecision, said: (count: number) => string, back?: TrayDecision) => {
    setBusy(true);
    try {
      const nudges = about.map((l) => l.nudge);
      const done = await decideEach(about, order);
      const next = entries.slice(at + 1).find((e) => !e.lines.some((l) => nudges.includes(l.nudge)));
      setChosen(next?.key ?? null);
      setReading(false);
      setTicked(new Set());
      setAsking(null);
      const waits = done.sendings.map((sending) => track(sending)).some(Boolean);
      const canceled = done.canceled.map((c) => {
        const own = lines.find((l) => l.name === c.name);
        return `${c.name}: ${withdrawnWords(c.reason as never, own?.evidence ?? [])}`;
      });
      if (!waits)
        toast(done.done > 0 ? `${plural(done.done, 'nudge')} ${said(done.done)}.` : 'Nothing was sent.', {
          description: canceled.length > 0 ? `Not sent. ${canceled.join(', ')}.` : undefined,
          duration: canceled.length > 0 ? 12_000 : 5000,
          action: back && {
            label: 'Undo',
            onClick: () =>
              void attempt(async () => {
                await decideEach(about, back);
                await refreshAll();
              }),
          },
        });
      // The next key may come as soon as the list shows it, whatever else is still asked for.
      await refreshUntil(['tray']);
    } catch (error) {
      toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  const may: PermissionCheck = (needs) => here?.may(needs as Capability) ?? false;
  const approve = () => void decide({ as: 'send' }, (n) => (n === 1 ? 'is on its way' : 'are on their way'));

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.ctrlKey || e.metaKey || e.altKey || isTyping(e.target) || document.querySelector('[role=dialog]')) return;
      const act: Readonly<Record<string, () => void>> = {
        ArrowDown: () => go(at + 1),
        ArrowUp: () => go(at - 1),
        x: () => tick(entry),
        s: approve,
        d: () => setAsking('dismiss'),
        l: () => setAsking('later'),
        e: () => single && setAsking('text'),
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
    <AllowedContext.Provider value={may}>
      <ListAndDetail
        narrow={reading ? 'detail' : 'list'}
        list={
          <>
            <p role="status" className="border-b border-line px-5 py-2 text-[13px] text-ink-3">
              {plural(all, 'nudge')} waiting, the most urgent first
              {all > lines.length && `, ${lines.length} shown`}
              {many.length > 0 && `, ${many.length} chosen`}
              <span aria-hidden className="float-right max-[1100px]:hidden">
                <Key>X</Key> choose <Key>↑</Key> <Key>↓</Key>
              </span>
            </p>
            <TrayList
              here={props.here}
              everywhere={everywhere}
              entries={entries}
              shown={entry}
              ticked={ticked}
              opened={opened}
              onChoose={(next) => {
                choose(next);
                setReading(true);
              }}
              onTick={tick}
              onOpen={open}
            />
          </>
        }
        detail={
          <>
            <button
              type="button"
              className="flex min-h-11 items-center gap-1.5 border-b border-line bg-sheet px-4 font-semibold text-pine min-[900px]:hidden"
              onClick={() => setReading(false)}
            >
              <ArrowLeft size={18} aria-hidden /> All that waits
            </button>
            <div
              role="toolbar"
              aria-label="Decide"
              className="flex flex-wrap items-center gap-2 border-b border-line bg-sheet px-6 py-3 max-[899px]:sticky max-[899px]:bottom-[calc(56px+env(safe-area-inset-bottom))] max-[899px]:order-last max-[899px]:border-t max-[899px]:px-4"
            >
              <Button needs="nudges.decide" look="main" busy={busy} onClick={approve}>
                {sendWords(about, many.length > 0)} <Key>S</Key>
              </Button>
              <Button needs="nudges.decide" busy={busy} onClick={() => setAsking('dismiss')}>
                {many.length > 0 ? `Dismiss ${plural(many.length, 'nudge')}` : single ? 'Dismiss' : 'Dismiss for all'}{' '}
                <Key>D</Key>
              </Button>
              {isPhone ? (
                may('nudges.decide') && (
                  <DropdownMenu.Root>
                    <DropdownMenu.Trigger
                      aria-label="More to decide"
                      className="grid size-8 place-items-center rounded-[9px] border border-line-strong"
                    >
                      <Ellipsis size={17} aria-hidden />
                    </DropdownMenu.Trigger>
                    <DropdownMenu.Portal>
                      <DropdownMenu.Content align="end" sideOffset={6} className="pop z-50 min-w-52 p-1.5">
                        <DropdownMenu.Item className={menuItem} onSelect={() => setAsking('later')}>
                          Decide later
                        </DropdownMenu.Item>
                        {many.length === 0 && single && (
                          <DropdownMenu.Item className={menuItem} onSelect={() => setAsking('text')}>
                            Change the text
                          </DropdownMenu.Item>
                        )}
                      </DropdownMenu.Content>
                    </DropdownMenu.Portal>
                  </DropdownMenu.Root>
                )
              ) : (
                <>
                  <Button needs="nudges.decide" busy={busy} onClick={() => setAsking('later')}>
                    Decide later <Key>L</Key>
                  </Button>
                  {many.length === 0 && single && (
                    <Button needs="nudges.decide" onClick={() => setAsking('text')}>
                      Change the text <Key>E</Key>
                    </Button>
                  )}
                </>
              )}
            </div>
            {here ? (
              <TrayDetail here={here} line={line} lines={entry.lines} />
            ) : (
              <Loading what={`the course ${line.code}`} />
            )}
          </>
        }
      />
      {asking === 'dismiss' && (
        <DismissDialog
          count={about.length}
          name={line.name}
          about={`${line.course} ${about.map((l) => l.nudge).join(' ')}`}
          busy={busy}
          onClose={() => setAsking(null)}
          onDismiss={(reason) => void decide({ as: 'dismiss', reason }, () => 'dismissed', { as: 'restore' })}
        />
      )}
      {asking === 'later' && (
        <LaterDialog
          here={here ?? props.here}
          count={about.length}
          busy={busy}
          onClose={() => setAsking(null)}
          onLater={(until) => void decide({ as: 'later', until }, () => 'put off', { as: 'later', until: null })}
        />
      )}
      {asking === 'text' && here && <TextDialog here={here} line={line} onClose={() => setAsking(null)} />}
    </AllowedContext.Provider>
  );
}

/** What the first button does: it sends to one, a list about several, or whatever was ticked. */
function sendWords(about: readonly TrayLine[], ticked: boolean): string {
  if (ticked) return `Send ${plural(about.length, 'nudge')}`;
  return about.length === 1 ? `Send ${toOrAbout(about[0]!)}` : `Send about ${plural(about.length, 'student')}`;
}

const Key = ({ children }: { readonly children: string }) => (
  <kbd
    aria-hidden
    className="rounded border border-current px-1 font-num text-[11px] leading-4 font-normal opacity-75 max-[1100px]:hidden"
  >
    {children}
  </kbd>
);
