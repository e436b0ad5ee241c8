/** A chart with its table: drawn, read as a table, and taken along as CSV, PNG or SVG. */
import { useEffect, useRef, useState } from 'react';
import type { EChartsOption } from 'echarts';
import { DropdownMenu } from 'radix-ui';
import { toast } from 'sonner';
import { csvOf } from '@zest-bell/core/imports';
import { menuItem } from '../../ui/menu.ts';
import { Button } from '../../ui/Button.tsx';
import { save, saveText } from '../../ui/save.ts';
import { useMedia } from '../../ui/useMedia.ts';
import { lookOfPage, type ChartStyle } from './look.ts';

export interface ChartTable {
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | number | null)[])[];
}

export interface ChartCardProps {
  readonly title: string;
  /** What it says, in a sentence: for anyone who does not see it, and under the title. */
  readonly says: string;
  readonly option: (look: ChartStyle) => EChartsOption;
  readonly table: ChartTable;
  /** In pixels. */
  readonly height?: number;
  readonly fileName: string;
  /** The drawing was pressed: at which place along its axis. */
  readonly onPick?: (index: number) => void;
}

export function ChartCard(props: ChartCardProps) {
  const { title, says, option, table, height = 240, fileName } = props;
  const [asTable, setAsTable] = useState(false);
  const drawing = useRef<HTMLDivElement>(null);
  const picture = async (kind: 'png' | 'svg') => {
    const { init } = await import('./library.ts');
    const size = { width: drawing.current?.clientWidth ?? 560, height };
    if (kind === 'svg') {
      const chart = init(null, null, { renderer: 'svg', ssr: true, ...size });
      chart.setOption(option(lookOfPage()));
      saveText(`${fileName}.svg`, chart.renderToSVGString(), 'image/svg+xml');
      return chart.dispose();
    }
    const holder = document.createElement('div');
    const chart = init(holder, null, { renderer: 'canvas', ...size });
    const look = lookOfPage();
    chart.setOption(option(look));
    save(`${fileName}.png`, chart.getDataURL({ type: 'png', pixelRatio: 2, backgroundColor: look.sheet }));
    chart.dispose();
  };
  const sayFailed = () => toast.error('The picture could not be made. Reload the page and try again.');
  return (
    <section aria-label={title} className="min-w-0 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <div className="mb-2 flex flex-wrap items-start gap-x-3 gap-y-1">
        <div className="min-w-0 flex-1 basis-64">
          <h2 className="text-[17px] font-bold">{title}</h2>
          <p className="text-[14px] text-ink-2">{says}</p>
        </div>
        <Button aria-pressed={asTable} onClick={() => setAsTable(!asTable)}>
          As a table
        </Button>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger asChild>
            <Button>Export</Button>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" sideOffset={4} className="pop z-50 p-1.5">
              <DropdownMenu.Item
                className={menuItem}
                onSelect={() => saveText(`${fileName}.csv`, csvOf([table.columns, ...table.rows]), 'text/csv')}
              >
                Table (CSV)
              </DropdownMenu.Item>
              <DropdownMenu.Item className={menuItem} onSelect={() => void picture('png').catch(sayFailed)}>
                Picture (PNG)
              </DropdownMenu.Item>
              <DropdownMenu.Item className={menuItem} onSelect={() => void picture('svg').catch(sayFailed)}>
                Drawing (SVG)
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
      <div ref={drawing}>
        {asTable ? (
          <TableOf table={table} title={title} height={height} />
        ) : (
          <Chart option={option} says={`${title}. ${says}`} height={height} onPick={props.onPick} />
        )}
      </div>
    </section>
  );
}

function TableOf({
  table,
  title,
  height,
}: {
  readonly table: ChartTable;
  readonly title: string;
  readonly height: number;
}) {
  return (
    <div
      className="overflow-auto"
      style={{ maxHeight: height + 60 }}
      tabIndex={0}
      role="region"
      aria-label={`${title}: table`}
    >
      <table className="w-full text-[14px]">
        <thead>
          <tr>
            {table.columns.map((name) => (
              <th key={name} scope="col" className="sticky top-0 bg-sheet py-1 pr-4 text-left font-semibold text-ink-2">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, i) => (
            <tr key={i} className="border-t border-line">
              {row.map((cell, c) => (
                <td key={c} className={`py-1 pr-4 ${typeof cell === 'number' ? 'font-num' : ''}`}>
                  {cell ?? '–'}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Chart(props: {
  readonly option: (look: ChartStyle) => EChartsOption;
  readonly says: string;
  readonly height: number;
  readonly onPick: ((index: number) => void) | undefined;
}) {
  const { option, says, height, onPick } = props;
  const frame = useRef<HTMLDivElement>(null);
  const dark = useMedia('(prefers-color-scheme: dark)');
  const [state, setState] = useState<'coming' | 'drawn' | 'failed'>('coming');
  useEffect(() => {
    const element = frame.current!;
    let closed = false;
    let close = () => {
      closed = true;
    };
    const begin = ({ init }: typeof import('./library.ts')) => {
      if (closed) return;
      const chart = init(element, null, { renderer: 'canvas', height });
      const fit = new ResizeObserver(() => chart.resize({ width: element.clientWidth, height }));
      const draw = () => chart.setOption(option(lookOfPage()), { notMerge: true });
      draw();
      // A font that is late, or never comes, keeps no chart away: its words are drawn again once it is there.
      document.fonts.addEventListener('loadingdone', draw);
      if (onPick) {
        chart.getZr().on('click', ({ offsetX, offsetY }) => {
          if (chart.containPixel('grid', [offsetX, offsetY]))
            onPick(Math.round(chart.convertFromPixel({ xAxisIndex: 0 }, offsetX)));
        });
      }
      setState('drawn');
      fit.observe(element);
      close = () => {
        closed = true;
        document.fonts.removeEventListener('loadingdone', draw);
        fit.disconnect();
        // The library goes on with a drawing of many parts after `dispose`, and fails; cleared, it has nothing left to draw.
        chart.clear();
        chart.dispose();
      };
    };
    import('./library.ts').then(begin, () => !closed && setState('failed'));
    return () => close();
  }, [option, height, dark, onPick]);
  return (
    <>
      {state === 'failed' && (
        <p className="text-[14px]">
          The chart could not be loaded. “As a table” shows the same figures; reload the page to try again.
        </p>
      )}
      <div
        ref={frame}
        role="img"
        aria-label={says}
        data-drawn={state === 'drawn' || undefined}
        style={{ height }}
        hidden={state === 'failed'}
      />
    </>
  );
}
