/** A log of acts, the latest first, by person. */
import type { InfiniteData, UseInfiniteQueryResult } from '@tanstack/react-query';
import { aboutWords, type ActsAnswer } from '@zest-bell/core/exchange';
import { Button } from '../../ui/Button.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { When } from '../../ui/When.tsx';
import { Empty, Failed, Loading } from './States.tsx';

export function ActsTable(props: {
  readonly acts: UseInfiniteQueryResult<InfiniteData<ActsAnswer>>;
  readonly by: string;
  readonly onBy: (by: string) => void;
  readonly zone: string;
  /** Where all of it can be had as a table. */
  readonly file?: string;
  /** Over several courses. */
  readonly withCourse?: boolean;
}) {
  const { acts, by, onBy, zone, file, withCourse = false } = props;
  const pages = acts.data?.pages ?? [];
  const lines = pages.flatMap((p) => p.acts);
  const people = pages[0]?.people ?? [];
  if (acts.isError) return <Failed error={acts.error} retry={() => void acts.refetch()} />;
  return (
    <section aria-label="Who did what" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <div className="flex flex-wrap items-end gap-3">
        <div className="min-w-0 flex-1">
          <h2 className="text-[18px] font-bold">Who did what</h2>
          <p className="text-[14px] text-ink-2">
            Everything that changed something or took data away, for two years. Ids stand for people of the roster.
          </p>
        </div>
        <label className="grid gap-1 text-[13px] font-semibold text-ink-2">
          Who
          <select className="field" value={by} onChange={(e) => onBy(e.target.value)}>
            <option value="">Everybody</option>
            {[...new Set([...people, ...(by ? [by] : [])])].map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
        {file && (
          <a
            className="inline-flex min-h-9 items-center rounded-[11px] border border-line-strong px-4 text-[15px] font-semibold"
            href={file}
            download
          >
            Save as CSV
          </a>
        )}
      </div>
      {acts.isPending ? (
        <Loading what="the log" />
      ) : lines.length === 0 ? (
        <Empty title="Nothing yet">What people with access do is listed here.</Empty>
      ) : (
        <PlainTable
          label="Who did what"
          columns={[
            { name: 'What' },
            ...(withCourse ? [{ name: 'Course' }] : []),
            { name: 'About' },
            { name: 'Who' },
            { name: 'When' },
            { name: 'From' },
          ]}
          rows={lines.map((line) => ({
            key: String(line.id),
            head: line.says,
            cells: [
              ...(withCourse ? [line.course ?? ''] : []),
              <span key="about" className="block max-w-52 truncate">
                {aboutWords(line.about)}
                {line.count > 1 && ` (${line.count} times)`}
              </span>,
              line.by,
              <When key="when" at={line.at} zone={zone} />,
              line.from,
            ],
          }))}
        />
      )}
      {acts.hasNextPage && (
        <p className="mt-3">
          <Button busy={acts.isFetchingNextPage} onClick={() => acts.fetchNextPage()}>
            Show older ones
          </Button>
        </p>
      )}
    </section>
  );
}
