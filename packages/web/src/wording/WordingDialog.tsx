/** The words of a step: written on the left, read on the right as a student will read them. */
import { useDeferredValue, useRef, useState } from 'react';
import { toast } from 'sonner';
import { fullName, MERGE_FIELDS, type Condition, type Problem, type WordingAnswer } from '@zest-bell/core';
import { api, ApiProblem, errorWords } from '../app/api.ts';
import { refreshAll } from '../app/queries.ts';
import type { Here } from '../app/here.ts';
import { MessageView } from '../rules/Message.tsx';
import { Button } from '../ui/Button.tsx';
import { Dialog } from '../ui/Dialog.tsx';
import { Labelled, SelectField } from '../ui/fields.tsx';
import { Failed, Loading } from '../ui/States.tsx';
import { usePreview } from './usePreview.ts';

export function WordingDialog({
  here,
  wording,
  when,
  student,
  onClose,
}: {
  readonly here: Here;
  readonly wording: WordingAnswer;
  /** The condition of the rule whose step it is, for the fields that speak of it. */
  readonly when: Condition;
  readonly student: string | null;
  readonly onClose: () => void;
}) {
  const students = here.course.people.filter((p) => p.role === 'student' && p.active);
  const [subject, setSubject] = useState(wording.subject);
  const [text, setText] = useState(wording.text);
  const [reader, setReader] = useState(student ?? students[0]?.id ?? '');
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<unknown>(null);
  const area = useRef<HTMLTextAreaElement>(null);
  const { version, usedBy, ...fixed } = wording;
  const draft = { ...fixed, subject, text };
  const preview = usePreview(here, useDeferredValue(draft), when, reader);
  const problems: readonly Problem[] = preview.error instanceof ApiProblem ? preview.error.problems : [];
  const problemOf = (path: string) => problems.find((p) => p.path === path)?.message;

  const insert = (field: string) => {
    const at = area.current?.selectionStart ?? text.length;
    const written = `{{ ${field} | default: "" }}`;
    setText(text.slice(0, at) + written + text.slice(area.current?.selectionEnd ?? at));
    requestAnimationFrame(() => {
      // Between the quotes of the fallback, which is what has to be typed next.
      area.current?.focus();
      area.current?.setSelectionRange(at + written.length - 4, at + written.length - 4);
    });
  };

  const save = async () => {
    setBusy(true);
    setRefused(null);
    try {
      const saved = await api.put<WordingAnswer>(`/courses/${here.id}/wordings/${wording.id}`, {
        wording: draft,
        version,
      });
      await refreshAll();
      toast(`Saved the words of “${wording.name}”.`, {
        action: {
          label: 'Undo',
          onClick: () =>
            void api
              .put(`/courses/${here.id}/wordings/${wording.id}`, { wording: { ...fixed }, version: saved.version })
              .then(refreshAll)
              .catch((e: unknown) => toast.error(errorWords(e))),
        },
      });
      onClose();
    } catch (error) {
      setRefused(error);
    } finally {
      setBusy(false);
    }
  };

  const changed = subject !== wording.subject || text !== wording.text;
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={wording.name}
      note={
        usedBy.length === 0 ? 'Used by no rule yet.' : `Used by ${usedBy.join(', ')}: a change counts for all of them.`
      }
      foot={
        <>
          {refused !== null && (
            <p role="alert" className="font-semibold text-tangerine-text">
              ▲ {errorWords(refused)}
            </p>
          )}
          <Button className="ml-auto" onClick={onClose}>
            Leave as it was
          </Button>
          <Button look="main" busy={busy} disabled={!changed || problems.length > 0} onClick={() => void save()}>
            Save the words
          </Button>
        </>
      }
    >
      <div className="grid min-[860px]:grid-cols-[1.25fr_1fr]">
        <div className="grid content-start gap-4 p-6">
          <Labelled label="Subject" problem={problemOf('subject')}>
            {(id) => (
              <input
                id={id}
                className="field"
                value={subject}
                aria-invalid={problemOf('subject') !== undefined}
                aria-describedby={problemOf('subject') && `${id}-problem`}
                onChange={(e) => setSubject(e.target.value)}
              />
            )}
          </Labelled>
          <Labelled label="Text" problem={problemOf('text')}>
            {(id) => (
              <textarea
                id={id}
                ref={area}
                className="field min-h-[300px] leading-relaxed"
                value={text}
                aria-invalid={problemOf('text') !== undefined}
                aria-describedby={problemOf('text') && `${id}-problem`}
                onChange={(e) => setText(e.target.value)}
              />
            )}
          </Labelled>
          <SelectField
            label="Insert a personal value"
            value=""
            onChange={(e) => e.target.value && insert(e.target.value)}
          >
            <option value="">Choose a merge field …</option>
            {MERGE_FIELDS.map((f) => (
              <option key={f.name} value={f.name}>
                {f.title} ({f.name})
              </option>
            ))}
          </SelectField>
        </div>
        <div className="grid content-start gap-3 bg-fog p-6">
          <SelectField label="Read as" value={reader} onChange={(e) => setReader(e.target.value)}>
            {students.map((p) => (
              <option key={p.id} value={p.id}>
                {fullName(p)}
              </option>
            ))}
          </SelectField>
          {preview.isError && problems.length === 0 && <Failed error={preview.error} />}
          {problems.length > 0 ? (
            <p role="status" className="rounded-2xl border border-line bg-sheet p-5">
              <strong>This cannot be sent as it stands.</strong> {problems.map((p) => `${p.message}.`).join(' ')}
            </p>
          ) : preview.data ? (
            <>
              <MessageView message={preview.data.message} from={here.answer.sender.name} />
              {preview.data.message.blanks.length > 0 && (
                <p className="text-[14px] text-tangerine-text">
                  ▲ Empty for this student, without a fallback: {preview.data.message.blanks.join(', ')}.
                </p>
              )}
            </>
          ) : (
            !preview.isError && <Loading what="the preview" />
          )}
        </div>
      </div>
    </Dialog>
  );
}
