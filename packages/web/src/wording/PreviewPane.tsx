/** The words as one student reads them: any student, the awkward ones first, and as an inbox shows them before that. */
import { fullName, type Person, type Problem } from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { MessageView } from '../rules/Message.tsx';
import { SelectField } from '../ui/fields.tsx';
import { Failed, Loading } from '../ui/States.tsx';
import type { usePreview } from './usePreview.ts';

export function PreviewPane(props: {
  readonly here: Here;
  readonly preview: ReturnType<typeof usePreview>;
  readonly problems: readonly Problem[];
  readonly reader: string;
  readonly onReader: (student: string) => void;
}) {
  const { here, preview, problems, reader, onReader } = props;
  const students = here.course.people.filter((p) => p.role === 'student' && p.active);
  const awkward = awkwardOnes(students);
  const at = students.findIndex((p) => p.id === reader);
  const step = (by: number) => {
    const next = students[(at + by + students.length) % students.length];
    if (next) onReader(next.id);
  };
  const message = preview.data?.message;
  return (
    <div className="grid content-start gap-3 bg-fog p-6">
      <div className="flex items-end gap-2">
        <div className="min-w-0 flex-1">
          <SelectField label="Read as" className="w-full" value={reader} onChange={(e) => onReader(e.target.value)}>
            <optgroup label="The awkward ones">
              {awkward.map((a) => (
                <option key={a.words} value={a.person.id}>
                  {fullName(a.person)}: {a.words}
                </option>
              ))}
            </optgroup>
            <optgroup label="Everybody">
              {students.map((p) => (
                <option key={p.id} value={p.id}>
                  {fullName(p)}
                </option>
              ))}
            </optgroup>
          </SelectField>
        </div>
        <StepButton label="The student before" onClick={() => step(-1)}>
          ‹
        </StepButton>
        <StepButton label="The next student" onClick={() => step(1)}>
          ›
        </StepButton>
      </div>
      {preview.isError && problems.length === 0 && <Failed error={preview.error} />}
      {problems.length > 0 ? (
        <p role="status" className="rounded-2xl border border-line bg-sheet p-5">
          <strong>This cannot be sent as it stands.</strong> {problems.map((p) => `${p.message}.`).join(' ')}
        </p>
      ) : message ? (
        <>
          <div className="max-w-[340px] rounded-xl border border-line bg-sheet px-4 py-2.5" aria-label="In an inbox">
            <p className="truncate text-[13px] font-semibold">{here.answer.sender.name}</p>
            <p className="truncate text-[14px]">{message.subject}</p>
            <p className="truncate text-[13px] text-ink-2">{message.text.replace(/\s+/g, ' ')}</p>
          </div>
          <MessageView message={message} from={here.answer.sender.name} />
          {message.blanks.length > 0 && (
            <p className="text-[14px] text-tangerine-text">
              ▲ Empty for this student, without a fallback: {message.blanks.join(', ')}.
            </p>
          )}
        </>
      ) : (
        !preview.isError && <Loading what="the preview" />
      )}
    </div>
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

/** Those at whom a text breaks first. */
function awkwardOnes(students: readonly Person[]): { person: Person; words: string }[] {
  const longest = [...students].sort((a, b) => fullName(b).length - fullName(a).length)[0];
  const late = [...students].sort((a, b) => b.enrolledAt - a.enrolledAt)[0];
  const all = [
    { person: longest, words: 'the longest name' },
    { person: late, words: 'joined last' },
    { person: students.find((p) => !p.firstName.trim()), words: 'no first name' },
    { person: students.find((p) => !p.email), words: 'no address' },
    { person: students.find((p) => p.paused), words: 'paused nudges' },
  ];
  return all.flatMap(({ person, words }) => (person ? [{ person, words }] : []));
}
