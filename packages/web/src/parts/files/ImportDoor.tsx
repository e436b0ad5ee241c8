/** The one door for files: drop, choose or paste; each is shown as it will be read, and taken when somebody says so. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Upload } from 'lucide-react';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { DropZone } from '../../ui/DropZone.tsx';
import { uploadImport } from './uploadImport.ts';
import { ImportCardView } from './ImportCardView.tsx';
import { PasteDialog } from './PasteDialog.tsx';

export const dataQuery = (course: number) => ({
  queryKey: ['data', course],
  queryFn: () => ask(contract.intake.data, { course }),
});

export function ImportDoor({ here }: { readonly here: CourseHere }) {
  const [busy, setBusy] = useState(false);
  const [pasting, setPasting] = useState(false);
  const data = useQuery(dataQuery(here.id));
  const open = (data.data?.imports ?? []).filter((i) => i.state === 'open').toReversed();
  const bring = async (files: readonly File[]) => {
    setBusy(true);
    for (const file of files) await attempt(() => uploadImport(here.id, file.name, file));
    await queryClient.invalidateQueries({ queryKey: ['data', here.id] });
    setBusy(false);
  };
  return (
    <section aria-label="Bring files in" className="grid gap-3">
      <DropZone
        icon={Upload}
        title="Drop files here"
        about="A roster, items, grades, last visits, activity, attendance or a calendar, as CSV, Excel, OneRoster, xAPI or iCalendar. Nothing changes until you say so."
        choose="Choose files"
        multiple
        busy={busy}
        onFiles={(files) => void bring(files)}
      >
        <Button onClick={() => setPasting(true)}>Paste rows</Button>
      </DropZone>
      {open.map((card) => (
        <ImportCardView key={card.id} here={here} id={card.id} />
      ))}
      {/* What was pasted is reported with the other files of this page. */}
      {pasting && <PasteDialog here={here} reportHere={false} onClose={() => setPasting(false)} />}
    </section>
  );
}
