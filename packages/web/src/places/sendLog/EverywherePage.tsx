/** The send log of all of one’s courses, each row with its course; a row leads to the nudge in its course. */
import { useDeferredValue, useState } from 'react';
import { Link } from 'react-router';
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query';
import { plural } from '@zest-bell/core/time';
import { LOG_STATES, type EveryLogLine, type LogState } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { useHere } from '../../lib/here.ts';
import { withdrawnWords } from '../../lib/decisionWords.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { STATE_WORDS, StateChip } from '../../parts/messages/StateChip.tsx';
import { Button } from '../../ui/Button.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { When } from '../../ui/When.tsx';

const PAGE = 100;

export function EverywherePage() {
  const here = useHere();
  const [typed, setTyped] = useState('');
  const [state, setState] = useState<LogState | null>(null);
  const search = useDeferredValue(typed.trim());
  const log = useInfiniteQuery({
    queryKey: ['everyLog', search, state],
    queryFn: ({ pageParam }) =>
      ask(
        contract.desk.everyLog,
        {},
        {
          query: {
            search,
            take: PAGE,
            ...(state ? { state } : {}),
            ...(pageParam ? { beforeAt: pageParam.at, beforeNudge: pageParam.nudge } : {}),
          },
        },
      ),
    initialPageParam: null as EveryLogLine | null,
    getNextPageParam: (last) => (last.more ? last.lines.at(-1) : undefined),
    placeholderData: keepPreviousData,
  });
  const counts = log.data?.pages[0]?.counts;
  const lines = log.data?.pages.flatMap((p) => p.lines) ?? [];
  return (
    <PlacePage
      place="log"
      part="all your courses"
      scope={<EverywhereSwitch here={here} place="log" />}
      filters={
        <>
          <input
            type="search"
            aria-label="Search the log of all courses"
            placeholder="Search names, rules and subjects"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            className="field w-64"
          />
          <div role="group" aria-label="Show nudges that are" className="flex flex-wrap gap-1.5">
            {[null, ...LOG_STATES].map((one) => (
              <Pill key={one ?? 'all'} pressed={state === one} onClick={() => setState(one)}>
                {one === null ? 'All nudges' : STATE_WORDS[one]}{' '}
                {counts && <span className="font-num text-[12.5px] font-normal">{counts[one ?? 'all']}</span>}
              </Pill>
            ))}
          </div>
        </>
      }
    >
      {log.isError ? (
        <Failed error={log.error} retry={() => void log.refetch()} />
      ) : log.isPending ? (
        <Loading what="the log of all your courses" />
      ) : lines.length === 0 ? (
        <Empty title={typed === '' && state === null ? 'No nudges yet' : 'No matches'}>
          Every nudge of your courses belongs here. Archived courses are left out.
        </Empty>
      ) : (
        <div className="overflow-x-auto rounded-[16px] border border-line bg-sheet">
          <table className="w-full min-w-[860px] text-left text-[14.5px]">
            <thead className="text-[13px] text-ink-2">
              <tr className="border-b border-line-strong">
                {['Course', 'Student', 'Rule and subject', 'State', 'When'].map((name) => (
                  <th key={name} scope="col" className="px-4 py-2 font-semibold">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {lines.map((line) => (
                <tr key={line.nudge} className="border-b border-line last:border-b-0 hover:bg-fog">
                  <td className="px-4 py-2 font-semibold whitespace-nowrap">{line.code}</td>
                  <th scope="row" className="px-4 py-2">
                    <Link to={`/c/${line.course}/log?nudge=${line.nudge}`} className="font-bold hover:underline">
                      {line.studentName}
                    </Link>
                  </th>
                  <td className="max-w-96 px-4 py-2">
                    <span className="block truncate">{line.ruleName}</span>
                    <span className="block truncate text-[13.5px] text-ink-2">{line.subject ?? 'not written yet'}</span>
                  </td>
                  <td className="px-4 py-2">
                    <StateChip state={line.state} />
                    {line.reason && <span className="block text-[13px] text-ink-2">{withdrawnWords(line.reason)}</span>}
                    {line.answered === 'reply' && <span className="block text-[13px] text-iris">replied</span>}
                  </td>
                  <td className="px-4 py-2 whitespace-nowrap">
                    <When at={line.at} zone={line.timeZone} />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {log.hasNextPage && (
        <Button className="mt-3" busy={log.isFetchingNextPage} onClick={() => log.fetchNextPage()}>
          Show {plural(PAGE, 'more nudge')}
        </Button>
      )}
    </PlacePage>
  );
}
