/** A file of rules that was exported elsewhere: chosen, read on the server, and carried over from like a course. */
import { useRef, useState } from 'react';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';

export function BringRules({
  here,
  onBrought,
}: {
  readonly here: CourseHere;
  readonly onBrought: (from: string) => void;
}) {
  const chooser = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const bring = async (file: File) => {
    setBusy(true);
    const brought = await attempt(() =>
      ask(contract.carry.bring, { course: here.id }, { upload: file, query: { name: file.name } }),
    );
    setBusy(false);
    if (!brought) return;
    await refreshAll();
    onBrought(brought.from);
  };
  return (
    <>
      <input
        ref={chooser}
        type="file"
        accept=".json,application/json"
        aria-label="Choose a file of rules"
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          if (file) void bring(file);
          e.target.value = '';
        }}
      />
      <Button look="quiet" busy={busy} onClick={() => chooser.current?.click()}>
        A file of rules …
      </Button>
    </>
  );
}
