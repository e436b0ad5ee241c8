/** A wording: its texts on the left with warnings about them, and on the right the message as it will be read. */
import { longest } from '@zest-bell/core/problem';
import { useDeferredValue, useMemo, useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import type { Problem } from '@zest-bell/core/problem';
import { isActiveStudent } from '@zest-bell/core/course';
import type { Rule } from '@zest-bell/core/rules';
import {
  checkWording,
  WORDING_PURPOSES,
  wordingSchema,
  type Wording,
  type WordingPurpose,
} from '@zest-bell/core/wording';
import type { WordingAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll, useRules, useWordingResults } from '../../lib/queries.ts';
import { rehearse } from '../../lib/ruleActions.ts';
import { TrialPart } from '../trials/TrialPart.tsx';
import { useWhy, WhyField } from '../common/WhyField.tsx';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled, SelectField } from '../../ui/fields.tsx';
import { useFormOf } from '../../lib/useFormOf.ts';
import { WordingMeanwhile } from './WordingMeanwhile.tsx';
import { DraftedWording } from './DraftedWording.tsx';
import { CheckList } from './CheckList.tsx';
import { baseOf, FIRST, wordsAt, withWords, type TextPlace } from './draft.ts';
import { ParcelPart } from './ParcelPart.tsx';
import { Places } from './Places.tsx';
import { PreviewPane } from './PreviewPane.tsx';
import { PURPOSE_WORDS } from './purposes.ts';
import { Results } from './Results.tsx';
import { bodyOf, useAwkward, usePreview, type PreviewOptions } from '../messages/usePreview.ts';
import { WordsPart } from './WordsPart.tsx';

export interface WordingDialogProps {
  readonly here: CourseHere;
  readonly wording: WordingAnswer;
  /** The rule of the step, saved or not; null outside a rule. */
  readonly rule: Rule | null;
  readonly student: string | null;
  readonly onClose: () => void;
  /** After it was saved, once the dialog closes. */
  readonly onSaved?: () => void;
}

export function WordingDialog({ here, wording, rule, student: asked, onClose, onSaved }: WordingDialogProps) {
  const students = here.course.people.filter(isActiveStudent);
  const form = useFormOf<Wording>(`wording ${here.id} ${wording.id}`, bodyOf(wording), wording.version);
  const { value: draft, set: setDraft, dirty: changed, version } = form;
  const [place, setPlace] = useState<TextPlace>(FIRST);
  const [student, setStudent] = useState(asked ?? students[0]?.id ?? '');
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<unknown>(null);
  const results = useWordingResults(here.id);
  const { using, nextRoundAt } = useUsing(here, wording.id);
  const runs = using.some((r) => r.status === 'on');
  const about = rule ?? using[0] ?? null;
  const words = wordsAt(draft, place);
  const copy = place.kind === 'copy' ? draft.copies?.[place.index] : undefined;
  const reading: PreviewOptions = {
    when: about?.when ?? null,
    variant: place.kind === 'text' ? place.index : 0,
    reader: copy?.to ?? 'student',
  };
  const shown = useDeferredValue(draft);
  const preview = usePreview(here, shown, student, reading);
  const awkward = useAwkward(here, shown, reading);
  const next = useNextReached(here, about, wording.id, rule ? null : nextRoundAt);
  const problems: readonly Problem[] = preview.error instanceof ApiProblem ? preview.error.problems : [];
  const problemOf = (path: string) => problems.find((p) => p.path === path)?.message;
  const files = (draft.files?.length ?? 0) + (draft.letter?.attach ? 1 : 0);
  const checks = useMemo(() => {
    const checked = {
      ...wordsAt(draft, place),
      id: draft.id,
      purpose: draft.purpose,
      copies: draft.copies,
      copy: place.kind === 'copy',
      files: place.kind === 'copy' ? 0 : files,
    };
    return checkWording(checked, { course: here.course, rules: using, now: here.now });
  }, [draft, place, files, here.course, here.now, using]);

  const why = useWhy(here.id, `wording ${wording.id}`);
  const asksWhy = changed && runs && here.may('rules.run');

  const test = async () => {
    try {
      const { when, variant, reader } = reading;
      const body = { wording: draft, student, when, variant, reader };
      const said = await ask(contract.wording.test, { course: here.id }, { body });
      if (said.kind === 'sent') toast('The test is in your inbox.');
      else toast.error(`The mail server did not accept it: ${said.response}`);
    } catch (error) {
      toast.error(errorWords(error));
    }
  };

  const save = async () => {
    setBusy(true);
    setRefused(null);
    try {
      const saved = await ask(
        contract.wording.change,
        { course: here.id, wording: wording.id },
        { body: { wording: draft, version, why: why.value } },
      );
      form.drop();
      why.drop();
      await refreshAll();
      if (saved.version === wording.version) {
        toast(`Saved as a draft of “${draft.name}”. An owner or co-instructor reviews and publishes it.`);
        onClose();
        return;
      }
      const undo = () =>
        ask(
          contract.wording.change,
          { course: here.id, wording: wording.id },
          { body: { wording: bodyOf(wording), version: saved.version } },
        ).then(refreshAll);
      toast(`Saved “${draft.name}”.`, {
        action: { label: 'Undo', onClick: () => void undo().catch((e: unknown) => toast.error(errorWords(e))) },
      });
      onClose();
      onSaved?.();
    } catch (error) {
      setRefused(error);
    } finally {
      setBusy(false);
    }
  };

  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={wording.name}
      note={
        using.length === 0
          ? 'No rule uses this wording yet.'
          : `Used by ${using.map((r) => r.name).join(', ')}. Changes apply to ${using.length === 1 ? 'it' : 'all of them'}.`
      }
      foot={
        <>
          {refused !== null && (
            <p role="alert" className="font-semibold text-tangerine-text">
              ▲ {errorWords(refused)}
            </p>
          )}
          <Button disabled={problems.length > 0} onClick={() => test()}>
            Send a test to me
          </Button>
          <span className="ml-auto text-[13.5px] text-ink-3" role="status">
            {changed && 'Not saved yet. Your draft is kept in this browser.'}
          </span>
          {changed ? (
            <Button
              onClick={() => {
                form.drop();
                onClose();
              }}
            >
              Discard changes
            </Button>
          ) : (
            <Button onClick={onClose}>Close</Button>
          )}
          <Button look="main" busy={busy} disabled={!changed || problems.length > 0} onClick={() => save()}>
            {runs && !here.may('rules.run') ? 'Save as draft' : 'Save wording'}
          </Button>
        </>
      }
    >
      <div className="grid min-[860px]:grid-cols-[1.25fr_1fr]">
        <div className="grid content-start gap-3.5 p-6">
          {form.begunFrom && <WordingMeanwhile here={here} wording={wording} form={form} base={form.begunFrom} />}
          {wording.drafted && (
            <DraftedWording
              here={here}
              wording={wording}
              drafted={wording.drafted}
              onTake={(taken) => setDraft({ ...taken, id: wording.id })}
              onDone={onClose}
            />
          )}
          {wording.onTrial && (
            <p role="note" className="rounded-xl bg-zest-soft px-4 py-2.5 text-[14.5px]">
              A fair trial of these texts is running, so they cannot change. You can end it below.
            </p>
          )}
          <div className="grid grid-cols-[1fr_auto] gap-3">
            <Labelled label="Name" problem={problemOf('name')}>
              {(id) => (
                <input
                  id={id}
                  className="field w-full min-w-0"
                  maxLength={longest(wordingSchema.shape.name)}
                  value={draft.name}
                  onChange={(e) => setDraft({ ...draft, name: e.target.value })}
                />
              )}
            </Labelled>
            <SelectField
              label="Purpose"
              value={draft.purpose}
              onChange={(e) => setDraft({ ...draft, purpose: e.target.value as WordingPurpose })}
            >
              {WORDING_PURPOSES.map((p) => (
                <option key={p} value={p}>
                  {PURPOSE_WORDS[p]}
                </option>
              ))}
            </SelectField>
          </div>
          <Places
            here={here}
            rules={using}
            draft={draft}
            place={place}
            locked={wording.onTrial}
            onPlace={setPlace}
            onChange={setDraft}
          />
          <div inert={wording.onTrial && place.kind === 'text'} className="grid gap-3.5 inert:opacity-60">
            <WordsPart
              // Another place is another text, with an undo of its own.
              key={`${place.kind} ${place.index}`}
              here={here}
              words={words}
              when={reading.when}
              student={student}
              problemOf={(path) => problemOf(`${baseOf(place)}${path}`)}
              onChange={(part) => setDraft((d) => withWords(d, place, part))}
            />
          </div>
          {place.kind === 'text' && (
            <ParcelPart
              here={here}
              draft={draft}
              problemOf={problemOf}
              onChange={(part) => setDraft((d) => ({ ...d, ...(typeof part === 'function' ? part(d) : part) }))}
            />
          )}
          {asksWhy && <WhyField why={why.value} onChange={why.set} />}
          <CheckList checks={checks} onMend={(part) => setDraft((d) => withWords(d, place, part))} />
          <Results results={results.data?.[wording.id]} />
          <TrialPart here={here} wording={wording.id} />
        </div>
        <PreviewPane
          here={here}
          draft={draft}
          reading={reading}
          preview={preview}
          awkward={awkward.data}
          next={next}
          problems={problems}
          student={student}
          onStudent={setStudent}
        />
      </div>
    </Dialog>
  );
}

/** The saved rules with steps that use the wording, and when the first of them checks next. */
function useUsing(here: CourseHere, wording: string): { using: readonly Rule[]; nextRoundAt: number | null } {
  const { data } = useRules(here.id);
  return useMemo(() => {
    const cards = (data ?? []).filter((c) => c.rule.steps.some((s) => s.wording === wording));
    return { using: cards.map((c) => c.rule), nextRoundAt: cards[0]?.nextRoundAt ?? null };
  }, [data, wording]);
}

/** Whom the rule's next round would reach with the wording; null while there is no rule, or its draft does not fit yet. */
function useNextReached(
  here: CourseHere,
  rule: Rule | null,
  wording: string,
  at: number | null,
): readonly string[] | null {
  const rehearsal = useQuery({
    ...atMoment(['nextReached', here.id, JSON.stringify(rule), at], here.now),
    queryFn: ({ signal }) => rehearse(here, rule!, at ?? undefined, signal),
    enabled: rule !== null,
  });
  return useMemo(() => {
    if (!rule || !rehearsal.data) return null;
    return rehearsal.data.nudges
      .filter(({ decision: d }) => d.outcome === 'sent' || d.outcome === 'held')
      .filter(({ decision: d }) => rule.steps[d.step]?.wording === wording)
      .map(({ decision: d }) => d.student);
  }, [rehearsal.data, rule, wording]);
}
