/** A wording: its texts written on the left with what may embarrass, read on the right as a student will read them. */
import { useDeferredValue, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import {
  checkWording,
  MERGE_FIELDS,
  textsOf,
  WORDING_PURPOSES,
  type Condition,
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
import { PURPOSE_WORDS } from './purposes.ts';
import { usePreview } from './usePreview.ts';

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
  const area = useRef<HTMLTextAreaElement>(null);
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
  const change = (part: Partial<Variant>) => setTexts(texts.map((t, i) => (i === shown ? { ...t, ...part } : t)));

  const insert = (field: string) => {
    const at = area.current?.selectionStart ?? text.text.length;
    const written = `{{ ${field} | default: "" }}`;
    change({ text: text.text.slice(0, at) + written + text.text.slice(area.current?.selectionEnd ?? at) });
    requestAnimationFrame(() => {
      // Between the quotes of the fallback, which is what has to be typed next.
      area.current?.focus();
      area.current?.setSelectionRange(at + written.length - 4, at + written.length - 4);
    });
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
          <Labelled label="Subject" problem={problemOf(`${base}subject`)}>
            {(id) => (
              <input
                id={id}
                className="field"
                value={text.subject}
                aria-invalid={problemOf(`${base}subject`) !== undefined}
                aria-describedby={problemOf(`${base}subject`) && `${id}-problem`}
                onChange={(e) => change({ subject: e.target.value })}
              />
            )}
          </Labelled>
          <Labelled label="Text" problem={problemOf(`${base}text`)}>
            {(id) => (
              <textarea
                id={id}
                ref={area}
                className="field min-h-[240px] leading-relaxed"
                value={text.text}
                aria-invalid={problemOf(`${base}text`) !== undefined}
                aria-describedby={problemOf(`${base}text`) && `${id}-problem`}
                onChange={(e) => change({ text: e.target.value })}
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
