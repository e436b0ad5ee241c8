/** The clock of the demo, which a person can move on. */
import { useState } from 'react';
import { Link } from 'react-router';
import { DropdownMenu } from 'radix-ui';
import { toast } from 'sonner';
import { instantWords } from '@zest-bell/core/time';
import type { ClockAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask, errorWords } from '../lib/api.ts';
import { queryClient, refreshAll, useSession } from '../lib/queries.ts';

const MOVES = [
  { by: 'hour', words: 'Move one hour ahead' },
  { by: 'day', words: 'Move one day ahead' },
  { by: 'nextRound', words: 'Move to the next check' },
] as const;

/** The clock on the top bar. In the demo it is stopped and is moved from here. */
export function DemoClock({ clock, zone }: { readonly clock: ClockAnswer; readonly zone: string }) {
  const [moving, setMoving] = useState(false);
  const isAdministrator = useSession().data?.account?.isAdministrator ?? false;
  const words = instantWords(clock.now, zone);
  if (!clock.demo) return <span className="font-num text-[13.5px] whitespace-nowrap text-ink-2">{words}</span>;

  const move = async (by: (typeof MOVES)[number]['by']) => {
    setMoving(true);
    try {
      const answer = await ask(contract.demo.advance, {}, { body: { by } });
      queryClient.setQueryData(['clock'], answer);
      await refreshAll();
      toast(`It is now ${instantWords(answer.now, zone)}.`);
    } catch (error) {
      toast.error(errorWords(error));
    } finally {
      setMoving(false);
    }
  };

  const silence = async (silent: boolean) => {
    setMoving(true);
    try {
      queryClient.setQueryData(['clock'], await ask(contract.demo.campus, {}, { body: { silent } }));
      await refreshAll();
      toast(
        silent ? 'The learning platform sends no data now.' : 'The learning platform has sent everything it had held.',
      );
    } catch (error) {
      toast.error(errorWords(error));
    } finally {
      setMoving(false);
    }
  };

  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`Demo clock: ${words}. Move it`}
        disabled={moving}
        className="flex h-9 items-center gap-2 rounded-lg border border-dashed border-ink-3 px-2 font-num text-[12.5px] tracking-tight whitespace-nowrap hover:border-solid hover:border-ink"
      >
        {moving && (
          <span aria-hidden className="size-3 animate-spin rounded-full border-2 border-current border-t-transparent" />
        )}
        {words}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={6} className="pop z-50 w-72 p-1.5">
          <DropdownMenu.Label className="px-3 py-1.5 text-[13px] text-ink-2">
            {isAdministrator
              ? 'The demo clock stands still until you move it. As it moves, students act, rules run and mail goes out.'
              : 'The demo clock stands still until an administrator moves it.'}
          </DropdownMenu.Label>
          {isAdministrator && (
            <>
              {MOVES.map((m) => (
                <DropdownMenu.Item
                  key={m.by}
                  disabled={m.by === 'nextRound' && clock.nextRound === null}
                  onSelect={() => void move(m.by)}
                  className="cursor-pointer rounded-lg px-3 py-2 font-semibold outline-none data-disabled:opacity-50 data-highlighted:bg-fog"
                >
                  {m.words}
                  {m.by === 'nextRound' && (
                    <span className="block text-[13px] font-normal text-ink-2">
                      {clock.nextRound === null ? 'No rule runs after this' : instantWords(clock.nextRound, zone)}
                    </span>
                  )}
                </DropdownMenu.Item>
              ))}
              <DropdownMenu.Separator className="my-1 h-px bg-line" />
              <DropdownMenu.Item
                onSelect={() => void silence(!clock.silent)}
                className="cursor-pointer rounded-lg px-3 py-2 outline-none data-highlighted:bg-fog"
              >
                {clock.silent ? 'Let the learning platform send data again' : 'Stop data from the learning platform'}
                <span className="block text-[13px] text-ink-2">
                  {clock.silent
                    ? 'It sends everything that happened in the meantime'
                    : 'After two days without data, rules wait'}
                </span>
              </DropdownMenu.Item>
            </>
          )}
          {clock.campus !== null && (
            <DropdownMenu.Item asChild>
              <a
                href={clock.campus}
                target="_blank"
                rel="noreferrer"
                className="block rounded-lg px-3 py-2 outline-none data-highlighted:bg-fog"
              >
                Open the campus
                <span className="block text-[13px] text-ink-2">
                  Come from the learning platform as an instructor or a student, in a new tab
                </span>
              </a>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item asChild>
            <Link to="/mailroom" className="block rounded-lg px-3 py-2 outline-none data-highlighted:bg-fog">
              Open the Mailroom
              <span className="block text-[13px] text-ink-2">Read mail as students see it</span>
            </Link>
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
