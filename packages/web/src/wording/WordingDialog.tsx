/** A wording: its texts written on the left with what may embarrass, read on the right as a student will read them. */
import { lazy, Suspense, useDeferredValue, useMemo, useState } from 'react';
import { toast } from 'sonner';
import {
  checkWording,
  textsOf,
  WORDING_PURPOSES,
  type Condition,
  type MailTestAnswer,
  type Problem,
  type Variant,
  type Wording,
  type WordingAnswer,
  type WordingPurpose,
} from '@zest-bell/core';
import { api, ApiProblem, errorWords } from '../app/api.ts';
import { refreshAll, useRules } from '../app/queries.ts';
import type { Here } from '../app/here.ts';
import { Button } from '../ui/Button.tsx';
import { Dialog } from '../ui/Dialog.tsx';
import { Labelled, SelectField } from '../ui/fields.tsx';
import { CheckList } from './CheckList.tsx';
import { PreviewPane } from './PreviewPane.tsx';
import { FieldMenus } from './FieldMenus.tsx';
import { PURPOSE_WORDS } from './purposes.ts';
import { usePreview } from './usePreview.ts';
import type { WordsHandle } from './WordsEditor.tsx';

/** The editor comes when words are written: it is kept out of everything else. */
const WordsEditor = lazy(() => import('./WordsEditor.tsx'));

const MOST_TEXTS = 9;

export interface WordingDialogProps {
  readonly here: Here;
  readonly wording: WordingAnswer;
  /** The condition of the rule whose step it is, for the fields that speak of it; null outside a rule. */
  readonly when: Condition | null;
  readonly student: string | null;
  readonly onClose: () => void;
}

export function WordingDialog({ here, wording, when, student, onClose }: WordingDialogProps) {
  const students = here.course.people.filter((p) => p.role === 'student' && p.active);
  const [name, setName] = useState(wording.name);
  const [purpose, setPurpose] = useState<WordingPurpose>(wording.purpose);
  const [texts, setTexts] = useState<readonly Variant[]>(textsOf(wording));
  const [shown, setShown] = useState(0);
  const [reader, setReader] = useState(student ?? students[0]?.id ?? '');
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<unknown>(null);
  const [source, setSource] = useState(false);
  const [editor, setEditor] = useState<WordsHandle | null>(null);
  const draft = asWording(wording.id, name, purpose, texts);
  const rules = useRules(here.id);
  const using = useMemo(
    () => (rules.data ?? []).map((c) => c.rule).filter((r) => r.steps.some((s) => s.wording === wording.id)),
    [rules.data, wording.id],
  );
  const about = when ?? using[0]?.when ?? null;
  const preview = usePreview(here, useDeferredValue(draft), about, reader, shown);
  const problems: readonly Problem[] = preview.error instanceof ApiProblem ? preview.error.problems : [];
  const base = shown === 0 ? '' : `variants[${shown - 1}].`;
  const problemOf = (path: string) => problems.find((p) => p.path === path)?.message;
  const text = texts[shown]!;
  const checks = useMemo(
    () => checkWording({ ...text, purpose }, { course: here.course, rules: using, now: here.now }),
    [text, purpose, here.course, here.now, using],
  );
  const change = (part: Partial<Variant>) =>
    setTexts((all) => all.map((t, i) => (i === shown ? { ...t, ...part } : t)));

  const test = async () => {
    try {
      const body = { wording: draft, student: reader, when: about, variant: shown };
      const said = await api.post<MailTestAnswer>(`/courses/${here.id}/wordings/test`, body);
      if (said.kind === 'sent') toast('It is in your own mailbox, as this student would read it.');
      else toast.error(`The mail server did not take it: ${said.response}`);
    } catch (error) {
      toast.error(errorWords(error));
    }
  };

  const save = async () => {
    setBusy(true);
    setRefused(null);
    const path = `/courses/${here.id}/wordings/${wording.id}`;
    try {
      const saved = await api.put<WordingAnswer>(path, { wording: draft, version: wording.version });
      await refreshAll();
      const before = asWording(wording.id, wording.name, wording.purpose, textsOf(wording));
      const undo = () => api.put(path, { wording: before, version: saved.version }).then(refreshAll);
      toast(`Saved the words of “${name}”.`, {
        action: { label: 'Undo', onClick: () => void undo().catch((e: unknown) => toast.error(errorWords(e))) },
      });
      onClose();
    } catch (error) {
      setRefused(error);
    } finally {
      setBusy(false);
    }
  };

  const changed =
    JSON.stringify(draft) !== JSON.stringify(asWording(wording.id, wording.name, wording.purpose, textsOf(wording)));
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={wording.name}
      note={
        using.length === 0
          ? 'Used by no rule yet.'
          : `Used by ${using.map((r) => r.name).join(', ')}: a change counts for all of them.`
      }
      foot={
        <>
          {refused !== null && (
            <p role="alert" className="font-semibold text-tangerine-text">
              ▲ {errorWords(refused)}
            </p>
          )}
          <Button disabled={problems.length > 0} onClick={() => void test()}>
            Send me a test
          </Button>
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
        <div className="grid content-start gap-3.5 p-6">
          <div className="grid grid-cols-[1fr_auto] gap-3">
            <Labelled label="Name" problem={problemOf('name')}>
              {(id) => (
                <input
                  id={id}
                  className="field w-full min-w-0"
                  maxLength={80}
                  value={name}
                  onChange={(e) => setName(e.target.value)}
                />
              )}
            </Labelled>
            <SelectField label="Purpose" value={purpose} onChange={(e) => setPurpose(e.target.value as WordingPurpose)}>
              {WORDING_PURPOSES.map((p) => (
                <option key={p} value={p}>
                  {PURPOSE_WORDS[p]}
                </option>
              ))}
            </SelectField>
          </div>
          <Texts
            count={texts.length}
            shown={shown}
            onShow={setShown}
            onAdd={() => {
              setTexts([...texts, text]);
              setShown(texts.length);
            }}
            onRemove={() => {
              setTexts(texts.filter((_, i) => i !== shown));
              setShown(Math.max(0, shown - 1));
            }}
          />
          {source ? (
            <Labelled label="Subject" problem={problemOf(`${base}subject`)}>
              {(id) => (
                <input
                  id={id}
                  className="field font-num text-[13.5px]"
                  value={text.subject}
                  aria-invalid={problemOf(`${base}subject`) !== undefined}
                  aria-describedby={problemOf(`${base}subject`) && `${id}-problem`}
                  onChange={(e) => change({ subject: e.target.value })}
                />
              )}
            </Labelled>
          ) : (
            <div className="flex flex-col gap-1">
              <span className="text-[13px] font-semibold text-ink-2">Subject</span>
              <Suspense fallback={<div className="field">…</div>}>
                <WordsEditor
                  single
                  label="Subject"
                  value={text.subject}
                  invalid={problemOf(`${base}subject`) !== undefined}
                  describedBy={undefined}
                  onChange={(next) => change({ subject: next })}
                  onActive={setEditor}
                />
              </Suspense>
              {problemOf(`${base}subject`) && (
                <p className="text-[13px] font-semibold text-tangerine-text">▲ {problemOf(`${base}subject`)}</p>
              )}
            </div>
          )}
          <div className="flex flex-col gap-1">
            <div className="flex items-baseline justify-between text-[13px] font-semibold text-ink-2">
              <span>Text</span>
              <button
                type="button"
                aria-pressed={source}
                className="underline-offset-4 hover:underline aria-pressed:text-pine"
                onClick={() => setSource(!source)}
              >
                {source ? 'Show chips' : 'Show the source'}
              </button>
            </div>
            {source ? (
              <textarea
                aria-label="Text"
                className="field min-h-[240px] font-num text-[13.5px] leading-relaxed"
                value={text.text}
                aria-invalid={problemOf(`${base}text`) !== undefined}
                onChange={(e) => change({ text: e.target.value })}
              />
            ) : (
              <Suspense fallback={<div className="field min-h-[240px]">Fetching the editor …</div>}>
                <WordsEditor
                  label="Text"
                  value={text.text}
                  invalid={problemOf(`${base}text`) !== undefined}
                  describedBy={undefined}
                  onChange={(next) => change({ text: next })}
                  onActive={setEditor}
                />
              </Suspense>
            )}
            {problemOf(`${base}text`) && (
              <p className="text-[13px] font-semibold text-tangerine-text">▲ {problemOf(`${base}text`)}</p>
            )}
          </div>
          {!source && editor && <FieldMenus here={here} when={about} reader={reader} editor={editor} />}
          <CheckList checks={checks} onMend={change} />
        </div>
        <PreviewPane here={here} preview={preview} problems={problems} reader={reader} onReader={setReader} />
      </div>
    </Dialog>
  );
}

function asWording(id: string, name: string, purpose: WordingPurpose, texts: readonly Variant[]): Wording {
  const [first, ...variants] = texts;
  return { id, name, purpose, subject: first!.subject, text: first!.text, variants };
}

/** The texts of a wording: each student gets the next one in turn. */
function Texts(props: {
  readonly count: number;
  readonly shown: number;
  readonly onShow: (i: number) => void;
  readonly onAdd: () => void;
  readonly onRemove: () => void;
}) {
  return (
    <div className="flex flex-wrap items-center gap-1.5" role="group" aria-label="Texts of this wording">
      {Array.from({ length: props.count }, (_, i) => (
        <button
          key={i}
          type="button"
          aria-pressed={i === props.shown}
          onClick={() => props.onShow(i)}
          className="rounded-full border border-line-strong px-3 py-0.5 text-[13.5px] font-semibold hover:border-ink aria-pressed:border-ink aria-pressed:bg-ink aria-pressed:text-fog"
        >
          Text {i + 1}
        </button>
      ))}
      {props.count < MOST_TEXTS && (
        <button
          type="button"
          title="Texts rotate, so that nobody reads the same one twice running"
          onClick={props.onAdd}
          className="rounded-full border border-dashed border-pine px-3 py-0.5 text-[13.5px] font-semibold text-pine hover:border-solid"
        >
          + another text
        </button>
      )}
      {props.count > 1 && (
        <Button look="quiet" className="ml-auto" onClick={props.onRemove}>
          Remove text {props.shown + 1}
        </Button>
      )}
    </div>
  );
}
