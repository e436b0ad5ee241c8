/** Another wording for one nudge, or a text of its own; for one by hand, its text alone. The wording in the library stays as it is. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { TrayLine } from '@zest-bell/core/exchange';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll, useRules, useWordings } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { SelectField } from '../../ui/fields.tsx';
import { useKept } from '../../lib/useKept.ts';
import { unfinishedParts } from '@zest-bell/core/wording';
import { AskUnfinished } from '../../parts/wording/AskUnfinished.tsx';
import { WordsPart } from '../../parts/wording/WordsPart.tsx';
import { toOrAbout } from './trayWords.ts';

export function TextDialog(props: {
  readonly here: CourseHere;
  readonly line: TrayLine;
  readonly onClose: () => void;
}) {
  const { here, line } = props;
  const wordings = useWordings(here.id);
  const rules = useRules(here.id);
  const byHand = line.rule === null;
  const kept = useKept(`tray ${here.id} ${line.nudge}`, {
    wording: line.wording,
    text: line.source ?? { subject: '', text: '' },
    own: line.edited !== null,
  });
  const { wording, text, own } = kept.value;
  const [problems, setProblems] = useState<ApiProblem['problems']>([]);
  const [busy, setBusy] = useState(false);
  const unfinished = own ? [...new Set([...unfinishedParts(text.subject ?? ''), ...unfinishedParts(text.text)])] : [];
  const [asItIs, setAsItIs] = useState(false);
  const when = rules.data?.find((r) => r.rule.id === line.rule)?.rule.when ?? null;
  const choose = (id: string) => {
    const chosen = wordings.data?.find((w) => w.id === id);
    if (chosen) kept.set({ wording: id, own: false, text: { subject: chosen.subject, text: chosen.text } });
  };
  const save = async () => {
    setBusy(true);
    try {
      await ask(
        contract.mail.trayText,
        { course: here.id, nudge: line.nudge },
        { body: { text: own ? text : null, wording } },
      );
      kept.drop();
      await refreshAll();
      toast(own ? 'This nudge has your own text now.' : 'This nudge uses that wording now.');
      props.onClose();
    } catch (error) {
      setProblems(error instanceof ApiProblem ? error.problems : []);
      toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      wide
      onClose={props.onClose}
      title={`The text ${toOrAbout(line)}`}
      note={
        byHand
          ? 'Only this message changes. Those to others stay as they are.'
          : 'Only this nudge changes. The wording in your library stays as it is.'
      }
      foot={
        <>
          <Button look="main" busy={busy} disabled={unfinished.length > 0 && !asItIs} onClick={() => save()}>
            Save text
          </Button>
          {kept.dirty && (
            <Button
              onClick={() => {
                kept.drop();
                props.onClose();
              }}
            >
              Discard changes
            </Button>
          )}
          <span className="text-[13.5px] text-ink-3" role="status">
            {kept.dirty && 'Not saved yet. Your draft is kept in this browser.'}
          </span>
        </>
      }
    >
      <div className="grid gap-3 px-6 py-5">
        {!byHand && (
          <SelectField label="Wording" value={wording} onChange={(e) => choose(e.target.value)}>
            {(wordings.data ?? []).map((w) => (
              <option key={w.id} value={w.id}>
                {w.name}
              </option>
            ))}
          </SelectField>
        )}
        <WordsPart
          here={here}
          words={text}
          when={when}
          student={line.student}
          problemOf={(path) => problems.find((p) => p.path.endsWith(path))?.message}
          onChange={(part) => {
            setProblems([]);
            setAsItIs(false);
            kept.set((k) => ({ ...k, own: true, text: { ...k.text, ...part } }));
          }}
        />
        {unfinished.length > 0 && (
          <AskUnfinished parts={unfinished} act="Keep this text as it is" yes={asItIs} onYes={setAsItIs} />
        )}
      </div>
    </Dialog>
  );
}
