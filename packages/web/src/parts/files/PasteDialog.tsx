/** Rows pasted from a spreadsheet: looked at like any file before anything changes. */
import { contract } from '@zest-bell/core/contract';
import { useState } from 'react';
import type { ImportKind } from '@zest-bell/core/imports';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { useKept } from '../../lib/useKept.ts';
import { uploadImport } from './uploadImport.ts';
import { ImportCardView } from './ImportCardView.tsx';

export function PasteDialog(props: {
  readonly here: CourseHere;
  /** What the rows are, where the place says so. */
  readonly kind?: ImportKind;
  /** Whether the dialog goes on to the report; false where the page shows it on its own. */
  readonly reportHere?: boolean;
  readonly onClose: () => void;
}) {
  const { here, kind } = props;
  const { value: text, set: setText, drop } = useKept(`paste ${here.id} ${kind ?? ''}`, '');
  const [busy, setBusy] = useState(false);
  const [brought, setBrought] = useState<number | null>(null);
  const bring = async () => {
    setBusy(true);
    const id = await attempt(() => uploadImport(here.id, 'pasted rows.csv', new Blob([text])));
    if (id !== undefined && kind)
      await attempt(() => ask(contract.intake.decide, { course: here.id, import: id }, { body: { kind } }));
    await queryClient.invalidateQueries({ queryKey: ['data', here.id] });
    setBusy(false);
    if (id === undefined) return;
    drop();
    if (props.reportHere === false) props.onClose();
    else setBrought(id);
  };
  return (
    <Dialog
      open
      wide={brought !== null}
      onClose={props.onClose}
      title="Paste rows"
      note="Copy rows with their header from your spreadsheet. Nothing changes until you say so."
    >
      {brought === null ? (
        <div className="grid gap-3 px-6 py-5">
          <textarea
            aria-label="Rows with their header"
            autoFocus
            rows={10}
            className="field w-full font-num text-[13px]"
            placeholder={kind === 'items' ? 'Title\tDue' : 'Student ID\tName\tEmail'}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <div>
            <Button look="main" busy={busy} disabled={text.trim() === ''} onClick={() => bring()}>
              Look at these rows
            </Button>
          </div>
        </div>
      ) : (
        <div className="p-4">
          <ImportCardView here={here} id={brought} onSettled={props.onClose} />
        </div>
      )}
    </Dialog>
  );
}
