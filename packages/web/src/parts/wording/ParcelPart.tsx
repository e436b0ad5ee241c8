/** What goes with the student's message: files, and the message itself as a letter. */
import { lazy, Suspense, useState } from 'react';
import { LETTER_PAGES, type LetterPage, type Wording } from '@zest-bell/core/wording';
import type { CourseHere } from '../../lib/here.ts';
import { Check, SelectField } from '../../ui/fields.tsx';
import { Attachments } from './Attachments.tsx';
import type { WordsHandle } from './WordsEditor.tsx';

const WordsEditor = lazy(() => import('./WordsEditor.tsx'));

const FILE_NAME_FIELDS = [
  ['student.full_name', 'full name'],
  ['student.last_name', 'last name'],
  ['course.code', 'course code'],
] as const;

const FIRST_LETTER = { page: 'A4', fileName: '{{ course.code }} {{ student.full_name }}', attach: true } as const;

type ParcelContents = Pick<Wording, 'files' | 'letter'>;

export function ParcelPart(props: {
  readonly here: CourseHere;
  readonly draft: Wording;
  readonly problemOf: (path: string) => string | undefined;
  /** A part, or a function of the draft at that moment: an upload takes its time. */
  readonly onChange: (part: ParcelContents | ((draft: Wording) => ParcelContents)) => void;
}) {
  const { here, draft, problemOf, onChange } = props;
  const [fileName, setFileName] = useState<WordsHandle | null>(null);
  const letter = draft.letter ?? null;
  return (
    <section aria-label="Attachments" className="grid gap-2.5 border-t border-line pt-3.5">
      <Attachments
        here={here}
        files={draft.files ?? []}
        problem={problemOf('files')}
        onChange={(change) => onChange((now) => ({ files: change(now.files ?? []) }))}
      />
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
