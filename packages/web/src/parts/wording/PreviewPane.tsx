/** The words as they will be read: about any student, the awkward ones and whom the next round reaches first. */
import { voiceHere } from '../../lib/voice.ts';
import { useState } from 'react';
import { toast } from 'sonner';
import type { Problem } from '@zest-bell/core/problem';
import { listWords, plural } from '@zest-bell/core/time';
import { isActiveStudent } from '@zest-bell/core/course';
import { fieldTitle, type Wording } from '@zest-bell/core/wording';
import type { AwkwardAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask, errorWords } from '../../lib/api.ts';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { MessageView } from '../messages/Message.tsx';
import { Check, SelectField } from '../../ui/fields.tsx';
import { saveBytes } from '../../ui/save.ts';
import { Failed, Loading } from '../common/States.tsx';
import { readerWords } from './draft.ts';
import { bodyOf, type PreviewOptions, type usePreview } from '../messages/usePreview.ts';

export interface PreviewPaneProps {
  readonly here: CourseHere;
  readonly draft: Wording;
  readonly reading: PreviewOptions;
  readonly preview: ReturnType<typeof usePreview>;
  readonly awkward: AwkwardAnswer | undefined;
  /** Whom the next round of the rule would reach with these words; null while no rule uses them. */
  readonly next: readonly string[] | null;
  readonly problems: readonly Problem[];
  readonly student: string;
  readonly onStudent: (student: string) => void;
}

export function PreviewPane(props: PreviewPaneProps) {
  const { here, draft, reading, preview, awkward, next, problems, student, onStudent } = props;
  const [onPhone, setOnPhone] = useState(false);
  const [steps, setSteps] = useState<'everybody' | 'next'>('everybody');
  const everybody = here.course.people
    .filter(isActiveStudent)
    .map((p) => p.id)
    .toSorted((a, b) => nameOf(here, a).localeCompare(nameOf(here, b), 'en'));
  const through = steps === 'next' && next ? next : everybody;
  const at = through.indexOf(student);
  const step = (by: number) => {
    const to = through[(at + by + through.length) % through.length];
    if (to) onStudent(to);
  };
  const message = preview.data?.message;
  const copyOf = reading.reader && reading.reader !== 'student' ? reading.reader : null;
  return (
    <div className="grid content-start gap-3 bg-fog p-6">
      <div className="flex items-end gap-2">
        <div className="min-w-0 flex-1">
          <SelectField
            label={copyOf ? `For ${readerWords(copyOf)}, about` : 'Read as'}
            className="w-full"
            value={student}
            onChange={(e) => onStudent(e.target.value)}
          >
            {(awkward?.awkward.length ?? 0) > 0 && (
              <optgroup label="Students to check">
                {awkward!.awkward.map((a) => (
                  <option key={a.words} value={a.student}>
                    {nameOf(here, a.student)}: {a.words}
                  </option>
                ))}
              </optgroup>
            )}
            {next && next.length > 0 && (
              <optgroup label="Students of the next check">
                {next.map((id) => (
                  <option key={id} value={id}>
                    {nameOf(here, id)}
                  </option>
                ))}
              </optgroup>
            )}
            <optgroup label="Everybody">
              {everybody.map((id) => (
                <option key={id} value={id}>
                  {nameOf(here, id)}
                </option>
              ))}
            </optgroup>
          </SelectField>
        </div>
        <StepButton label="Previous student" onClick={() => step(-1)}>
          ‹
        </StepButton>
        <StepButton label="Next student" onClick={() => step(1)}>
          ›
        </StepButton>
      </div>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 text-[13.5px] text-ink-2">
        {next && next.length > 0 ? (
          <Check
            label={`Only students of the next check (${next.length})`}
            checked={steps === 'next'}
            onChange={(only) => {
              setSteps(only ? 'next' : 'everybody');
              if (only && !next.includes(student)) onStudent(next[0]!);
            }}
          />
        ) : next ? (
          <span>The next check would send it to nobody.</span>
        ) : null}
        <span className="font-num">{at >= 0 ? `${at + 1} of ${through.length}` : ''}</span>
        <span className="ml-auto">
          <Check label="On a phone" checked={onPhone} onChange={setOnPhone} />
        </span>
      </div>
      {preview.isError && problems.length === 0 && <Failed error={preview.error} />}
      {problems.length > 0 ? (
        <p role="status" className="rounded-2xl border border-line bg-sheet p-5">
          <strong>This text cannot be sent yet.</strong> {problems.map((p) => `${p.message}.`).join(' ')}
        </p>
      ) : message ? (
        <div
          className={
            onPhone
              ? 'mx-auto grid w-[340px] max-w-full grid-cols-[minmax(0,1fr)] gap-3 rounded-[28px] border-2 border-line-strong p-3'
              : 'grid grid-cols-[minmax(0,1fr)] gap-3'
          }
        >
          <div
            className={`rounded-xl border border-line bg-sheet px-4 py-2.5 ${onPhone ? '' : 'max-w-[420px]'}`}
            role="group"
            aria-label="In an inbox"
          >
            <p className="truncate text-[13px] font-semibold">{voiceHere(here).name}</p>
            <p className="truncate text-[14px]">{message.subject}</p>
            <p className="truncate text-[13px] text-ink-2">{firstWords(message.text)}</p>
          </div>
          <MessageView
            message={message}
            from={voiceHere(here).name}
            course={here.id}
            files={preview.data?.files ?? []}
          />
          {message.blanks.length > 0 && (
            <p className="text-[14px] text-tangerine-text">
              ▲ These fields are empty for this student and have no fallback:{' '}
              {listWords(message.blanks.map(fieldTitle))}.
            </p>
          )}
        </div>
      ) : (
        !preview.isError && <Loading what="the preview" />
      )}
      {problems.length === 0 && awkward && <ReadForAll awkward={awkward} here={here} onStudent={onStudent} />}
      {problems.length === 0 && draft.letter && !copyOf && (
        <Letters
          here={here}
          draft={draft}
          reading={reading}
          student={student}
          next={next ?? []}
          everybody={everybody}
        />
      )}
    </div>
  );
}

/** The text on one line, as a list of mails shows it: without addresses of links and dashes of lists. */
const firstWords = (text: string): string =>
  text
    .replace(/\s*\(https?:[^)\s]*\)/g, '')
    .replace(/^\s*[-•]\s+/gm, '')
    .replace(/\s+/g, ' ');

/** That the words were read for every student, and whom they fail. */
function ReadForAll(props: {
  readonly here: CourseHere;
  readonly awkward: AwkwardAnswer;
  readonly onStudent: (student: string) => void;
}) {
  const { here, awkward, onStudent } = props;
  const [first] = awkward.blank;
  if (!first) {
    return (
      <p className="text-[13.5px] text-ink-2">✓ Checked for all {plural(awkward.read, 'student')}: no empty fields.</p>
    );
  }
  return (
    <p className="text-[13.5px] text-tangerine-text">
      ▲ Checked for all {plural(awkward.read, 'student')}: {plural(awkward.blank.length, 'student')} would see an empty
      field, for example{' '}
      <button
        type="button"
        className="font-semibold underline underline-offset-2"
        onClick={() => onStudent(first.student)}
      >
        {nameOf(here, first.student)}
      </button>
      .
    </p>
  );
}

function Letters(props: {
  readonly here: CourseHere;
  readonly draft: Wording;
  readonly reading: PreviewOptions;
  readonly student: string;
  readonly next: readonly string[];
  readonly everybody: readonly string[];
}) {
  const { here, draft, reading, student, next, everybody } = props;
  const [busy, setBusy] = useState(false);
  const download = async (students: readonly string[]) => {
    setBusy(true);
    try {
      const { when, variant = 0 } = reading;
      const body = { wording: bodyOf(draft), when, variant, students };
      const { bytes, name } = await ask.download(contract.wording.letters, { course: here.id }, { body });
      saveBytes(name, bytes);
    } catch (error) {
      toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  const link = 'font-semibold text-pine underline-offset-4 hover:underline disabled:text-ink-3';
  return (
    <p className="flex flex-wrap gap-x-4 gap-y-1 text-[14px]" aria-busy={busy}>
      <span className="text-ink-2">Letter as a PDF:</span>
      <button type="button" disabled={busy} className={link} onClick={() => void download([student])}>
        for {nameOf(here, student)}
      </button>
      {next.length > 1 && (
        <button type="button" disabled={busy} className={link} onClick={() => void download(next)}>
          for the {next.length} students of the next check
        </button>
      )}
      <button type="button" disabled={busy} className={link} onClick={() => void download(everybody)}>
        for all {everybody.length} students
      </button>
    </p>
  );
}

function StepButton(props: { readonly label: string; readonly onClick: () => void; readonly children: string }) {
  return (
    <button
      type="button"
      aria-label={props.label}
      title={props.label}
      onClick={props.onClick}
      className="grid size-9 place-items-center rounded-lg border border-line-strong bg-sheet text-lg hover:border-ink"
    >
      {props.children}
    </button>
  );
}
