/** Mail merge: any sheet, its rows chosen, its columns as fields in the text, each message read before it goes. */
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { Upload } from 'lucide-react';
import { plural } from '@zest-bell/core/time';
import { contract } from '@zest-bell/core/contract';
import { ask, linkTo } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { queryClient, refreshAll } from '../../lib/queries.ts';
import { uploadImport } from '../../parts/files/uploadImport.ts';
import { Button } from '../../ui/Button.tsx';
import { DropZone } from '../../ui/DropZone.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { useKept } from '../../lib/useKept.ts';
import { SheetRows } from './SheetRows.tsx';
import { WriteDesk } from './WriteDesk.tsx';
import { Page } from '../../ui/Page.tsx';

export function MergePage() {
  const here = useHere();
  const [params, setParams] = useSearchParams();
  const chosen = Number(params.get('sheet')) || null;
  return (
    <Page
      title="Mail merge"
      lead={
        <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={`/c/${here.id}/wording`}>
          ← Wording
        </Link>
      }
    >
      <p className="text-ink-2">
        Write to the people of a sheet. Its columns are fields in your text. You read each message before it goes.
      </p>
      {chosen === null ? (
        <Sheets here={here} onChoose={(sheet) => setParams({ sheet: String(sheet) })} />
      ) : (
        <Sheet key={chosen} here={here} sheet={chosen} onLeave={() => setParams({})} />
      )}
    </Page>
  );
}

function Sheets({ here, onChoose }: { readonly here: CourseHere; readonly onChoose: (sheet: number) => void }) {
  const [busy, setBusy] = useState(false);
  const sheets = useQuery({
    queryKey: ['sheets', here.id],
    queryFn: () => ask(contract.mail.sheets, { course: here.id }),
  });
  const bring = async (file: File) => {
    setBusy(true);
    const made = await attempt(() =>
      ask(contract.mail.bringSheet, { course: here.id }, { upload: file, query: { name: file.name } }),
    );
    await queryClient.invalidateQueries({ queryKey: ['sheets', here.id] });
    setBusy(false);
    if (made) onChoose(made.id);
  };
  const remove = async (id: number) => {
    await attempt(() => ask(contract.mail.removeSheet, { course: here.id, sheet: id }));
    await queryClient.invalidateQueries({ queryKey: ['sheets', here.id] });
  };
  return (
    <>
      <div className="mt-4">
        <DropZone
          icon={Upload}
          title="Drop a sheet here"
          about="CSV or Excel, one row per person. Each row names a student by id, address or name, or carries its own address."
          choose="Choose a sheet"
          accept=".csv,.tsv,.txt,.xlsx"
          busy={busy}
          onFiles={([file]) => void bring(file!)}
        />
      </div>
      {sheets.isError ? (
        <Failed error={sheets.error} retry={() => void sheets.refetch()} />
      ) : sheets.data?.length === 0 ? (
        <Empty title="No sheets yet">Sheets that you write from are listed here, with what was sent when.</Empty>
      ) : (
        <ul className="mt-4 grid gap-2" aria-label="Sheets">
          {(sheets.data ?? []).map((card) => (
            <li
              key={card.id}
              className="flex flex-wrap items-baseline gap-x-4 gap-y-1 rounded-[14px] border border-line bg-sheet px-5 py-3"
            >
              <button
                className="min-w-0 flex-1 basis-56 truncate text-left font-semibold hover:underline"
                onClick={() => onChoose(card.id)}
              >
                {card.name}
              </button>
              <span className="text-[14px] text-ink-2">
                {plural(card.rows, 'row')}, {card.written} written to, {card.by},{' '}
                <When at={card.at} zone={here.course.timeZone} />
              </span>
              <Button look="quiet" onClick={() => remove(card.id)}>
                Remove sheet
              </Button>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

function Sheet({
  here,
  sheet,
  onLeave,
}: {
  readonly here: CourseHere;
  readonly sheet: number;
  readonly onLeave: () => void;
}) {
  const query = useQuery({
    queryKey: ['sheets', here.id, sheet],
    queryFn: () => ask(contract.mail.sheet, { course: here.id, sheet }),
  });
  const rows = useKept<readonly number[] | null>(`sheet rows ${here.id} ${sheet}`, null);
  const setRows = (chosen: ReadonlySet<number>) => rows.set([...chosen]);
  const [kept, setKept] = useState(false);
  if (query.isPending) return <Loading what="the sheet" />;
  if (query.isError) return <Failed error={query.error} retry={() => void query.refetch()} />;
  const { data } = query;
  // People outside the course are written to only if they are chosen.
  const ofCourse = data.lines.flatMap((l, i) => (l.who !== 'person' || l.written ? [] : [i]));
  const chosen = new Set(rows.value ?? ofCourse);
  const keep = async () => {
    const text = [data.headers, ...data.lines.map((l) => l.cells)]
      .map((cells) => cells.map((c) => `"${c.replaceAll('"', '""')}"`).join(','))
      .join('\r\n');
    const id = await attempt(() => uploadImport(here.id, `${data.name} as columns.csv`, new Blob([text])));
    if (id === undefined) return;
    await attempt(() => ask(contract.intake.decide, { course: here.id, import: id }, { body: { kind: 'columns' } }));
    await refreshAll();
    setKept(true);
  };
  return (
    <div className="mt-4 grid gap-4">
      <section aria-label="Rows of the sheet" className="min-w-0 rounded-[16px] border border-line bg-sheet px-5 py-4">
        <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
          <h2 className="min-w-0 flex-1 truncate text-[18px] font-bold">{data.name}</h2>
          <a
            className="text-[14px] font-semibold text-pine underline-offset-4 hover:underline"
            download
            href={linkTo(contract.mail.sheetFile, { course: here.id, sheet })}
          >
            Download with what was sent
          </a>
          <Button look="quiet" onClick={() => keep()}>
            Keep as course columns
          </Button>
          <Button look="quiet" onClick={onLeave}>
            Other sheets
          </Button>
        </div>
        {kept && (
          <p role="status" className="mt-1 text-[14px]">
            The sheet is open under{' '}
            <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course/data`}>
              Bring data in
            </Link>
            . Take it in there, and rules can use its columns.
          </p>
        )}
        <SheetRows sheet={data} chosen={chosen} onChosen={setRows} />
      </section>
      <WriteDesk
        here={here}
        columns={data.headers}
        addresses={data.addresses}
        storeAs={`sheet ${sheet}`}
        to={{ sheet, rows: [...chosen].toSorted((a, b) => a - b), students: [] }}
        onSent={() => setRows(new Set())}
      />
    </div>
  );
}
