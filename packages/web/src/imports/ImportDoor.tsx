/** The one door for files: drop, choose or paste; each is shown as it will be read, and taken when somebody says so. */
import { useRef, useState, type DragEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Upload } from 'lucide-react';
import type { DataAnswer } from '@zest-bell/core';
import { api } from '../app/api.ts';
import { attempt } from '../app/attempt.ts';
import type { Here } from '../app/here.ts';
import { queryClient } from '../app/queries.ts';
import { Button } from '../ui/Button.tsx';
import { bringFile } from './bring.ts';
import { ImportCardView } from './ImportCardView.tsx';
import { PasteDialog } from './PasteDialog.tsx';

export const dataQuery = (course: number) => ({
  queryKey: ['data', course],
  queryFn: () => api.get<DataAnswer>(`/courses/${course}/data`),
});

export function ImportDoor({ here }: { readonly here: Here }) {
  const chooser = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [busy, setBusy] = useState(false);
  const [pasting, setPasting] = useState(false);
  const data = useQuery(dataQuery(here.id));
  const open = (data.data?.imports ?? []).filter((i) => i.state === 'open').toReversed();
  const bring = async (files: readonly File[]) => {
    setBusy(true);
    for (const file of files) await attempt(() => bringFile(here.id, file.name, file));
    await queryClient.invalidateQueries({ queryKey: ['data', here.id] });
    setBusy(false);
  };
  const onDrop = (e: DragEvent) => {
    e.preventDefault();
    setOver(false);
    void bring([...e.dataTransfer.files]);
  };
  return (
    <section aria-label="Bring files in" className="grid gap-3">
      <div
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={onDrop}
        className={`flex flex-wrap items-center gap-x-4 gap-y-3 rounded-[16px] border-2 border-dashed px-5 py-5 ${over ? 'border-pine bg-zest-soft' : 'border-line-strong bg-sheet'}`}
      >
        <Upload aria-hidden size={26} className="shrink-0 text-pine" />
        <span className="min-w-0 flex-1 basis-72">
          <strong className="block text-[16px]">Drop files here</strong>
          <span className="text-[14px] text-ink-2">
            A roster, items, grades, activity, attendance or a calendar, as CSV, Excel, OneRoster, xAPI or iCalendar.
            Nothing changes until you say so.
          </span>
        </span>
        <input
          ref={chooser}
          type="file"
          multiple
          className="sr-only"
          aria-label="Choose files"
          tabIndex={-1}
          onChange={(e) => {
            void bring([...(e.target.files ?? [])]);
            e.target.value = '';
          }}
        />
        <Button look="main" busy={busy} onClick={() => chooser.current?.click()}>
          Choose files
        </Button>
        <Button onClick={() => setPasting(true)}>Paste rows</Button>
      </div>
      {open.map((card) => (
        <ImportCardView key={card.id} here={here} id={card.id} />
      ))}
      {/* What was pasted is reported with the other files of this page. */}
      {pasting && <PasteDialog here={here} reportHere={false} onClose={() => setPasting(false)} />}
    </section>
  );
}
