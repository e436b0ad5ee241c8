/** Every nudge and every attempt, with the whole message; and what the limits withheld. */
import { useDeferredValue, useEffect, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { dayWords, instantWords, plural } from '@zest-bell/core/time';
import { evidenceWords } from '@zest-bell/core/conditions';
import type { ReplyKind } from '@zest-bell/core/nudges';
import { LOG_STATES, type LogLine, type LogState, type WithheldLine } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { ask } from '../../lib/api.ts';
import { OutcomeFigures } from '../../parts/common/OutcomeFigures.tsx';
import { useOutcomes, useRules } from '../../lib/queries.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { LinkButton } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { withdrawnWords, withheldWords } from '../../lib/decisionWords.ts';
import { LogDetailView } from './LogDetailView.tsx';
import { STATE_WORDS, StateChip } from '../../parts/messages/StateChip.tsx';
import { DropdownMenu } from 'radix-ui';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { exportFile, type ExportOrder } from '../../lib/exporting.ts';
import { menuItem } from '../../ui/menu.ts';
import { Explained } from '../../ui/Explained.tsx';
import { ListAndDetail } from '../../ui/ListAndDetail.tsx';

const ANSWERED: Readonly<Record<ReplyKind, string>> = {
  reply: 'replied',
  autoReply: 'automatic reply',
  bounce: '▲ came back',
};

/** Lines that are asked for at a time. */
const PAGE = 200;

type View = LogState | 'all' | 'withheld';

/** The lines of the view with its filters, all of them. */
function LogExport({ here, view, query }: { readonly here: CourseHere; readonly view: View; readonly query: object }) {
  const { take: _take, ...filters } = query as Omit<ExportOrder, 'what' | 'as'> & { readonly take: number };
  const what = view === 'withheld' ? 'withheld' : 'log';
  const item = (as: ExportOrder['as'], words: string) => (
    <DropdownMenu.Item
      key={as}
      className={menuItem}
      onSelect={() => void exportFile(here.id, { ...filters, what, as })}
    >
      {words}
    </DropdownMenu.Item>
  );
  return (
    <ExportMenu what={what === 'log' ? 'The nudges that are listed' : 'Who is listed as held back'}>
      {item('xlsx', 'Workbook (XLSX)')}
      {item('csv', 'Table (CSV)')}
      {item('csvBom', 'Table (CSV for older spreadsheets)')}
      {what === 'log' && (
        <>
          {item('jsonl', 'Full messages (JSON lines)')}
          {item('mbox', 'Sent messages (mbox)')}
          {item('eml', 'Sent messages (EML, in a ZIP archive)')}
        </>
      )}
    </ExportMenu>
  );
}

export function SendLogPage() {
  const here = useHere();
  const rules = useRules(here.id);
  const [params, setParams] = useSearchParams();
  const set = (name: string, value: string) =>
    setParams(
      (before) => {
        const next = new URLSearchParams(before);
        if (value === '') next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  // Typed text lives here first: the address follows it, and would drop letters typed in a hurry.
  const [search, setSearch] = useState(params.get('search') ?? '');
  const rule = params.get('rule') ?? '';
  const outcomes = useOutcomes(here.id).data;
  const outcome = rule === '' ? outcomes?.all : outcomes?.rules[rule];
  const date = params.get('date') ?? '';
  const view = (params.get('view') ?? 'all') as View;
  const settledSearch = useDeferredValue(search);
  const query = {
    search: settledSearch,
    take: PAGE,
    ...(rule ? { rule } : {}),
    ...(date ? { date } : {}),
    ...(LOG_STATES.includes(view as LogState) ? { state: view as LogState } : {}),
  };
  const log = useInfiniteQuery({
    queryKey: ['log', here.id, query],
    queryFn: ({ pageParam }) => ask(contract.mail.log, { course: here.id }, { query: { ...query, skip: pageParam } }),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (pages.length * PAGE < last.total ? pages.length * PAGE : undefined),
    placeholderData: keepPreviousData,
  });
  const counts = log.data?.pages[0]!.counts;
  const withheld = useQuery({
    queryKey: ['withheld', here.id, settledSearch, rule],
    queryFn: () => {
      const query = { search: settledSearch, ...(rule ? { rule } : {}) };
      return ask(contract.mail.withheld, { course: here.id }, { query });
    },
    enabled: view === 'withheld',
    placeholderData: keepPreviousData,
  });
  // A search changes the counts, and takes no filter away.
  const everything = useQuery({
    queryKey: ['log', here.id, 'counts'],
    queryFn: () => ask(contract.mail.log, { course: here.id }, { query: { search: '', take: 1, skip: 0 } }),
  }).data?.counts;
  const isUsed = (state: LogState) => state === 'sent' || state === view || (everything?.[state] ?? 0) > 0;
  const views: readonly View[] = ['all', ...LOG_STATES.filter(isUsed), 'withheld'];
  return (
    <PlacePage
      place="log"
      fills
      lead={outcome && outcome.sent > 0 && <OutcomeFigures of={outcome} />}
      scope={<EverywhereSwitch here={here} place="log" />}
      actions={
        <>
          <LinkButton to={`/c/${here.id}/log/back`}>Who came back</LinkButton>
          <LogExport here={here} view={view} query={query} />
        </>
      }
      filters={
        <>
          <input
            type="search"
            aria-label="Search the log"
            placeholder="Search names, rules and subjects"
            value={search}
            onChange={(e) => {
              setSearch(e.target.value);
              set('search', e.target.value);
            }}
            className="field w-64"
          />
          <select
            aria-label="Rule"
            value={rule}
            onChange={(e) => set('rule', e.target.value)}
            className="field max-w-64"
          >
            <option value="">All rules</option>
            {(rules.data ?? []).map((c) => (
              <option key={c.rule.id} value={c.rule.id}>
                {c.rule.name}
              </option>
            ))}
          </select>
          {date && (
            <button
              onClick={() => set('date', '')}
              className="rounded-full bg-ink px-3 py-1 text-[13.5px] font-semibold text-fog"
              aria-label={`Only ${date}. Show all days`}
            >
              {dayWords(Date.parse(`${date}T12:00:00Z`), 'UTC')} ✕
            </button>
          )}
          <div role="group" aria-label="State" className="flex flex-wrap gap-1.5">
            {views.map((v) => (
              <Pill key={v} pressed={view === v} onClick={() => set('view', v === 'all' ? '' : v)}>
                {v === 'all' ? 'All nudges' : v === 'withheld' ? 'Held back by limits' : STATE_WORDS[v]}
                {v !== 'withheld' && ` ${counts?.[v] ?? ''}`}
              </Pill>
            ))}
          </div>
        </>
      }
    >
      {view === 'withheld' ? (
        <Withheld here={here} query={withheld} />
      ) : log.isError ? (
        <Failed error={log.error} retry={() => void log.refetch()} />
      ) : !log.data ? (
        <Loading what="the log" />
      ) : (
        <Lines
          here={here}
          lines={log.data.pages.flatMap((page) => page.lines)}
          total={log.data.pages[0]!.total}
          older={log.hasNextPage ? () => void log.fetchNextPage() : null}
          chosen={Number(params.get('nudge')) || null}
          onChoose={(nudge) => set('nudge', String(nudge))}
          filtered={Boolean(search || rule || date || view !== 'all')}
        />
      )}
    </PlacePage>
  );
}

function Lines(props: {
  readonly here: CourseHere;
  readonly lines: readonly LogLine[];
  readonly total: number;
  /** Brings the page before the last one shown; null when all are here. */
  readonly older: (() => void) | null;
  /** The nudge that the address names. */
  readonly chosen: number | null;
  readonly onChoose: (nudge: number) => void;
  readonly filtered: boolean;
}) {
  const { here, lines } = props;
  const listed = lines.find((l) => l.nudge === props.chosen);
  // A link may lead to a nudge that is not in the list: that one is shown, and never another in its place.
  const nudge = props.chosen ?? lines[0]?.nudge;
  if (nudge === undefined) {
    return (
      <Empty title={props.filtered ? 'No matches' : 'Nothing sent yet'}>
        {props.filtered
          ? 'No nudge fits your search and filters.'
          : 'When a rule sends its first nudge, you can read it here with the mail server’s answer.'}
      </Empty>
    );
  }
  return (
    <ListAndDetail
      list={
        <>
          <p role="status" className="border-b border-line px-5 py-2 text-[13px] text-ink-3">
            {plural(props.total, 'nudge')}
            {props.older && `, the latest ${lines.length} shown. `}
            {props.older && (
              <button className="font-semibold text-pine underline underline-offset-4" onClick={props.older}>
                Show older nudges
              </button>
            )}
            {props.chosen !== null && !listed && (
              <span className="block text-tangerine-text">▲ The open nudge is not in this list.</span>
            )}
          </p>
          <LineList here={here} lines={lines} shown={listed ?? lines[0]} onChoose={props.onChoose} />
        </>
      }
      detail={<LogDetailView key={nudge} here={here} nudge={nudge} />}
    />
  );
}

const ROW = 56;

function LineList(props: {
  readonly here: CourseHere;
  readonly lines: readonly LogLine[];
  readonly shown: LogLine | undefined;
  readonly onChoose: (nudge: number) => void;
}) {
  const frame = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const list = useVirtualizer({
    count: props.lines.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const index = props.shown ? props.lines.indexOf(props.shown) : -1;
  const [focusWanted, setFocusWanted] = useState(false);
  useEffect(() => {
    if (!focusWanted) return;
    setFocusWanted(false);
    list.scrollToIndex(index);
    requestAnimationFrame(() => frame.current?.querySelector<HTMLElement>('[aria-pressed=true]')?.focus());
  }, [focusWanted, index, list]);
  return (
    <div
      ref={frame}
      className="pane"
      onKeyDown={(e) => {
        const step = { ArrowDown: 1, ArrowUp: -1 }[e.key];
        const next = step && props.lines[index + step];
        if (!next) return;
        e.preventDefault();
        props.onChoose(next.nudge);
        setFocusWanted(true);
      }}
    >
      <ul style={{ height: list.getTotalSize(), position: 'relative' }} aria-label="Nudges">
        {list.getVirtualItems().map((row) => {
          const line = props.lines[row.index]!;
          return (
            <li key={line.nudge} className="absolute inset-x-0" style={{ top: row.start, height: ROW }}>
              <button
                aria-pressed={line === props.shown}
                tabIndex={line === props.shown ? 0 : -1}
                onClick={() => props.onChoose(line.nudge)}
                className="grid h-full w-full grid-cols-[1fr_auto] content-center gap-x-3 border-b border-line px-5 text-left outline-offset-[-3px] hover:bg-fog aria-pressed:bg-fog aria-pressed:shadow-[inset_4px_0_0_var(--zest)]"
              >
                <strong className="truncate text-[14.5px] font-semibold">{line.studentName}</strong>
                <span className="text-[13px] text-ink-2">{instantWords(line.at, props.here.course.timeZone)}</span>
                <span className="truncate text-[13.5px] text-ink-2">
                  {line.subject ?? (line.reason ? withdrawnWords(line.reason) : 'not sent yet')} · {line.ruleName}
                </span>
                <span className="flex gap-1.5 justify-self-end">
                  {line.answered && (
                    <Chip tone={line.answered === 'bounce' ? 'tangerine' : 'iris'}>{ANSWERED[line.answered]}</Chip>
                  )}
                  {/* That most were sent goes without saying. */}
                  {line.state === 'sent' ? <span className="sr-only">sent</span> : <StateChip state={line.state} />}
                </span>
              </button>
            </li>
          );
        })}
      </ul>
    </div>
  );
}

function Withheld({
  here,
  query,
}: {
  readonly here: CourseHere;
  readonly query: { data?: WithheldLine[] | undefined; isError: boolean; error: unknown };
}) {
  if (query.isError) return <Failed error={query.error} />;
  if (!query.data) return <Loading what="nudges that limits held back" />;
  if (query.data.length === 0) {
    return <Empty title="No nudges held back">No limit has held back a nudge that fits your search.</Empty>;
  }
  return (
    <div className="pane rounded-[16px] border border-line bg-sheet">
      <table className="w-full text-[14px]">
        <caption className="sr-only">Nudges held back, one line for each limit and each time</caption>
        <thead className="text-left text-[13px] text-ink-3">
          <tr className="border-b border-line">
            {['Student', 'Rule', 'Why', 'Evidence', 'Checks'].map((h) => (
              <th key={h} scope="col" className="px-4 py-2 font-semibold">
                {h === 'Checks' ? <Explained word="check">{h}</Explained> : h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {query.data.map((l) => (
            <tr
              key={`${l.rule} ${l.student} ${l.firstRound} ${l.reason}`}
              className="border-b border-line align-top last:border-0"
            >
              <th scope="row" className="px-4 py-2 text-left font-bold whitespace-nowrap">
                {l.studentName}
              </th>
              <td className="px-4 py-2">{l.ruleName}</td>
              <td className="px-4 py-2">
                <Chip tone="quiet">{withheldWords(l.reason)}</Chip>
              </td>
              <td className="px-4 py-2 text-ink-2">{evidenceWords(l.evidence, here.course.timeZone)}</td>
              <td className="px-4 py-2 whitespace-nowrap text-ink-2">
                {l.rounds === 1 ? (
                  <When at={l.lastRound} zone={here.course.timeZone} />
                ) : (
                  <>
                    {l.rounds} times, last <When at={l.lastRound} zone={here.course.timeZone} />
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
