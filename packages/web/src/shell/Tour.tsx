/** A tour of five stops for a first visit to the demo. It points at the real controls and can be left at any stop. */
import { useEffect, useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { Popover } from 'radix-ui';
import { Button } from '../ui/Button.tsx';
import type { CourseHere } from '../lib/here.ts';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../lib/api.ts';
import { useRules, useSession } from '../lib/queries.ts';
import { tourIsOver, endTour } from './tourMemory.ts';

interface TourStop {
  readonly path: string;
  /** The control that it points at. */
  readonly target: string;
  readonly title: string;
  readonly text: string;
}

const stopsOf = (rule: string): readonly TourStop[] => [
  {
    path: 'today',
    target: '[aria-label="Falling through"] h2, main h1',
    title: 'Start your day here',
    text: 'Today shows what is waiting for you. “Falling through” lists students who match a rule but were not reached, and what helps.',
  },
  {
    path: 'today',
    target: '[data-testid=term-strip]',
    title: 'The whole term at a glance',
    text: 'Each bar is a day with nudges, each circle a check to come. Press a day to read what was sent.',
  },
  {
    path: `rules/${rule}`,
    target: '[data-testid=sentence] .marked',
    title: 'A rule is one sentence',
    text: 'Click any marked part to change it. Nothing is saved or sent until you say so.',
  },
  {
    path: `rules/${rule}`,
    target: '[data-testid=reach]',
    title: 'Whom it reaches, right now',
    text: 'This follows every change you make. Drag the threshold below to see who would be nudged, and why.',
  },
  {
    path: 'today',
    target: '[aria-label^="Demo clock"]',
    title: 'Make time pass',
    text: 'In the demo, time stands still. Move the clock here: students act, rules run, and mail goes out to the Mailroom.',
  },
];

export function Tour({ here }: { readonly here: CourseHere }) {
  const [at, setAt] = useState<number | null>(null);
  const account = useSession().data?.account;
  const [left, setLeft] = useState(tourIsOver);
  const offered = here.demo && !left && account?.tourOver === false;
  const rules = useRules(here.id);
  const rule = rules.data?.find((c) => c.rule.status === 'on')?.rule.id;
  const leave = () => {
    endTour();
    // The next browser asks no more either; where this fails it asks once more.
    void ask(contract.access.endTour, {}).catch(() => undefined);
    setLeft(true);
    setAt(null);
  };
  if (rule === undefined || (!offered && at === null)) return null;
  const stops = stopsOf(rule);
  if (at !== null) {
    return <StopCard key={at} here={here} stops={stops} at={at} onMove={setAt} onLeave={leave} />;
  }
  return (
    <section
      aria-label="Tour"
      className="flex flex-wrap items-center justify-center gap-x-5 gap-y-2 border-b border-line bg-zest-area px-6 py-2"
    >
      <p>
        <strong>New here?</strong> See how Zest Bell works in five stops. It takes two minutes.
      </p>
      <p className="flex gap-3">
        <Button onClick={() => setAt(0)}>Start the tour</Button>
        <Button onClick={leave}>Skip it</Button>
      </p>
    </section>
  );
}

function StopCard(props: {
  readonly here: CourseHere;
  readonly stops: readonly TourStop[];
  readonly at: number;
  readonly onMove: (at: number) => void;
  readonly onLeave: () => void;
}) {
  const { here, stops, at, onMove, onLeave } = props;
  const stop = stops[at]!;
  const navigate = useNavigate();
  const target = useTarget(`/c/${here.id}/${stop.path}`, stop.target, navigate);
  const anchor = useMemo(() => ({ current: target! }), [target]);
  if (!target) return null;
  const last = at === stops.length - 1;
  return (
    <Popover.Root open onOpenChange={(open) => !open && onLeave()}>
      <Popover.Anchor virtualRef={anchor} />
      <Popover.Portal>
        <Popover.Content
          side="bottom"
          sideOffset={10}
          collisionPadding={12}
          aria-label={`Tour: ${stop.title}`}
          onInteractOutside={(e) => e.preventDefault()}
          className="pop z-50 grid w-[min(340px,calc(100vw-24px))] gap-3 border-2! border-pine! p-4"
        >
          <div>
            <h2 className="text-[17px] font-bold">{stop.title}</h2>
            <p className="mt-1 text-[14.5px]">{stop.text}</p>
          </div>
          <p className="flex items-center gap-3">
            <span className="mr-auto font-num text-[13px] text-ink-3">
              {at + 1} of {stops.length}
            </span>
            <Button look="quiet" onClick={onLeave}>
              Leave the tour
            </Button>
            <Button look="main" onClick={() => (last ? onLeave() : onMove(at + 1))}>
              {last ? 'Finish' : 'Next'}
            </Button>
          </p>
          <Popover.Arrow className="fill-pine" />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** The control of a stop, once its place is open and shows it; it is marked while the stop points at it. */
function useTarget(path: string, selector: string, navigate: (path: string) => unknown): HTMLElement | null {
  const [target, setTarget] = useState<HTMLElement | null>(null);
  useEffect(() => {
    if (window.location.pathname !== path) void navigate(path);
    let found: HTMLElement | null = null;
    const look = () => {
      const element = document.querySelector<HTMLElement>(selector);
      if (!element || found || window.location.pathname !== path) return;
      found = element;
      element.scrollIntoView({ block: 'center' });
      element.dataset['tour'] = 'here';
      setTarget(element);
    };
    const watch = new MutationObserver(look);
    watch.observe(document.body, { childList: true, subtree: true });
    look();
    return () => {
      watch.disconnect();
      if (found) delete found.dataset['tour'];
    };
  }, [path, selector, navigate]);
  return target;
}
