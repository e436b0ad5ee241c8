/** What goes with the student's message: files, and the message itself as a letter. */
import { useRef, useState } from 'react';
import { toast } from 'sonner';
import { LETTER_PAGES, MOST_FILES_BYTES, type FileRef, type LetterPage, type Wording } from '@zest-bell/core';
import { errorWords } from '../app/api.ts';
import type { Here } from '../app/here.ts';
import { Check, Labelled, SelectField } from '../ui/fields.tsx';
import { sizeWords, uploadFile } from './files.ts';

const FIRST_LETTER = { page: 'A4', fileName: '{{ course.code }} {{ student.full_name }}', attach: true } as const;

export function ParcelPart(props: {
  readonly here: Here;
  readonly draft: Wording;
  readonly problemOf: (path: string) => string | undefined;
  readonly onChange: (part: Pick<Wording, 'files' | 'letter'>) => void;
}) {
  const { here, draft, problemOf, onChange } = props;
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const files = draft.files ?? [];
  const letter = draft.letter ?? null;
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
    const known = new Set(files.map((f) => f.id));
    onChange({ files: [...files, ...taken.filter((f) => !known.has(f.id))] });
  };
  const size = files.reduce((n, f) => n + f.size, 0);
  const problem =
    problemOf('files') ?? (size > MOST_FILES_BYTES ? 'The files of a message are 10 MB at most' : undefined);
  return (
    <section aria-label="What goes with it" className="grid gap-2.5 border-t border-line pt-3.5">
      <div className="flex flex-wrap items-center gap-2">
        <h3 className="text-[13px] font-semibold text-ink-2">Goes with it</h3>
        {files.map((f) => (
          <span
            key={f.id}
            className="flex items-center gap-2 rounded-lg border border-line-strong py-0.5 pr-1 pl-2.5 text-[14px]"
          >
            {f.name} <span className="font-num text-[12.5px] text-ink-3">{sizeWords(f.size)}</span>
            <button
              type="button"
              aria-label={`Take ${f.name} off`}
              className="grid size-6 place-items-center rounded hover:bg-fog"
              onClick={() => onChange({ files: files.filter((other) => other !== f) })}
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
          {busy ? 'Taking it in …' : '+ file'}
        </button>
        <input
          ref={input}
          type="file"
          multiple
          aria-label="Files that go with it"
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
      <Check
        label="Also as a letter: a PDF for each student"
        checked={letter !== null}
        onChange={(yes) => onChange({ letter: yes ? FIRST_LETTER : null })}
      />
      {letter && (
        <div className="grid grid-cols-[auto_1fr] items-end gap-x-3 gap-y-2 pl-7">
          <SelectField
            label="Page"
            value={letter.page}
            onChange={(e) => onChange({ letter: { ...letter, page: e.target.value as LetterPage } })}
          >
            {LETTER_PAGES.map((page) => (
              <option key={page}>{page}</option>
            ))}
          </SelectField>
          <Labelled label="File name, with fields" problem={problemOf('letter.fileName')}>
            {(id) => (
              <input
                id={id}
                className="field min-w-0 font-num text-[13.5px]"
                maxLength={120}
                value={letter.fileName}
                onChange={(e) => onChange({ letter: { ...letter, fileName: e.target.value } })}
              />
            )}
          </Labelled>
          <div className="col-span-2">
            <Check
              label="Goes with the message; without, it is there to download"
              checked={letter.attach}
              onChange={(attach) => onChange({ letter: { ...letter, attach } })}
            />
          </div>
        </div>
      )}
    </section>
  );
}
