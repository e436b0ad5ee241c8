/** Files that go with a message: added, named with their size, taken away. */
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { MOST_FILES_BYTES, type FileRef } from '@zest-bell/core/wording';
import { errorWords } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { sizeWords, uploadFile } from '../messages/files.ts';

export function Attachments(props: {
  readonly here: CourseHere;
  readonly files: readonly FileRef[];
  readonly problem?: string | undefined;
  /** What the files become, from what they are then: an upload takes its time. */
  readonly onChange: (change: (files: readonly FileRef[]) => readonly FileRef[]) => void;
}) {
  const { here, files, onChange } = props;
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const add = async (chosen: readonly File[]) => {
    setBusy(true);
    const taken: FileRef[] = [];
    for (const file of chosen) {
      try {
        taken.push(await uploadFile(here.id, file));
      } catch (error) {
        toast.error(errorWords(error));
      }
    }
    setBusy(false);
    onChange((now) => {
      const known = new Set(now.map((f) => f.id));
      return [...now, ...taken.filter((f) => !known.has(f.id))];
    });
  };
  const size = files.reduce((n, f) => n + f.size, 0);
  const problem =
    props.problem ?? (size > MOST_FILES_BYTES ? 'Attachments can have 10 MB together. Remove a file' : undefined);
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <h3 className="text-[13px] font-semibold text-ink-2">Attachments</h3>
        {files.map((f) => (
          <span
            key={f.id}
            className="flex items-center gap-2 rounded-lg border border-line-strong py-0.5 pr-1 pl-2.5 text-[14px]"
          >
            {f.name} <span className="font-num text-[12.5px] text-ink-3">{sizeWords(f.size)}</span>
            <button
              type="button"
              aria-label={`Remove ${f.name}`}
              className="grid size-6 place-items-center rounded hover:bg-fog"
              onClick={() => onChange((now) => now.filter((other) => other.id !== f.id))}
            >
              ×
            </button>
          </span>
        ))}
        <button
          type="button"
          disabled={busy}
          title="Up to 5 MB a file, 10 MB together"
          className="rounded-lg border border-dashed border-pine px-2.5 py-0.5 text-[14px] font-semibold text-pine hover:border-solid disabled:text-ink-3"
          onClick={() => input.current?.click()}
        >
          {busy ? 'Uploading …' : '+ file'}
        </button>
        <input
          ref={input}
          type="file"
          multiple
          aria-label="Attached files"
          className="sr-only"
          tabIndex={-1}
          onChange={(e) => {
            const chosen = [...(e.target.files ?? [])];
            e.target.value = '';
            void add(chosen);
          }}
        />
      </div>
      {problem && <p className="text-[13px] font-semibold text-tangerine-text">▲ {problem}</p>}
    </>
  );
}
