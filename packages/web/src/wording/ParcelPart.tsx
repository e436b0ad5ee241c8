/** What goes with the student's message: files, and the message itself as a letter. */
import { lazy, Suspense, useRef, useState } from 'react';
import { toast } from 'sonner';
import { LETTER_PAGES, MOST_FILES_BYTES, type FileRef, type LetterPage, type Wording } from '@zest-bell/core';
import { errorWords } from '../app/api.ts';
import type { Here } from '../app/here.ts';
import { Check, SelectField } from '../ui/fields.tsx';
import { sizeWords, uploadFile } from './files.ts';
import type { WordsHandle } from './WordsEditor.tsx';

const WordsEditor = lazy(() => import('./WordsEditor.tsx'));

const FILE_NAME_FIELDS = [
  ['student.full_name', 'full name'],
  ['student.last_name', 'last name'],
  ['course.code', 'course code'],
] as const;

const FIRST_LETTER = { page: 'A4', fileName: '{{ course.code }} {{ student.full_name }}', attach: true } as const;

type Part = Pick<Wording, 'files' | 'letter'>;

export function ParcelPart(props: {
  readonly here: Here;
  readonly draft: Wording;
  readonly problemOf: (path: string) => string | undefined;
  /** A part, or what it is on the draft as it stands then: an upload takes its time. */
  readonly onChange: (part: Part | ((draft: Wording) => Part)) => void;
}) {
  const { here, draft, problemOf, onChange } = props;
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const [fileName, setFileName] = useState<WordsHandle | null>(null);
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
    onChange((now) => {
      const known = new Set(now.files?.map((f) => f.id));
      return { files: [...(now.files ?? []), ...taken.filter((f) => !known.has(f.id))] };
    });
  };
  const size = files.reduce((n, f) => n + f.size, 0);
  const problem =
    problemOf('files') ?? (size > MOST_FILES_BYTES ? 'Attachments can have 10 MB together. Remove a file' : undefined);
  return (
    <section aria-label="Attachments" className="grid gap-2.5 border-t border-line pt-3.5">
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
          <div className="grid min-w-0 gap-1">
            <span className="text-[13px] font-semibold text-ink-2">File name</span>
            <Suspense fallback={<div className="field">…</div>}>
              <WordsEditor
                single
                label="File name of the letter"
                value={letter.fileName}
                invalid={problemOf('letter.fileName') !== undefined}
                describedBy={undefined}
                onChange={(fileName) => onChange({ letter: { ...letter, fileName } })}
                onActive={setFileName}
              />
            </Suspense>
            {fileName && (
              <span className="flex flex-wrap gap-1.5">
                {FILE_NAME_FIELDS.map(([field, words]) => (
                  <button
                    key={field}
                    type="button"
                    className="rounded-md border border-dashed border-pine px-1.5 text-[13px] font-semibold text-pine hover:border-solid"
                    onClick={() => fileName.insertField(field, null)}
                  >
                    + {words}
                  </button>
                ))}
              </span>
            )}
            {problemOf('letter.fileName') && (
              <p className="text-[13px] font-semibold text-tangerine-text">▲ {problemOf('letter.fileName')}</p>
            )}
          </div>
          <div className="col-span-2">
            <Check
              label="Attach the letter to the message. If not, you can download it"
              checked={letter.attach}
              onChange={(attach) => onChange({ letter: { ...letter, attach } })}
            />
          </div>
        </div>
      )}
    </section>
  );
}
