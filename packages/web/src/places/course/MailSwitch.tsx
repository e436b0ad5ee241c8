/** One switch over all mail of the course, and what becomes of what waits. */
import { useState } from 'react';
import { toast } from 'sonner';
import { plural } from '@zest-bell/core/time';
import type { MissedChoice, StandingAnswer, StartQueued } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { attempt } from '../../lib/attempt.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { When } from '../../ui/When.tsx';

export function MailSwitch({ here, standing }: { readonly here: CourseHere; readonly standing: StandingAnswer }) {
  const [open, setOpen] = useState(false);
  const { stopped, queued } = standing;
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
      <p className="min-w-0 flex-1">
        {stopped ? (
          <>
            <strong>All mail of this course is stopped</strong> since{' '}
            <When at={stopped.at} zone={here.course.timeZone} />, by {stopped.by}. {waitingWords(standing)}
          </>
        ) : (
          <>
            <strong>Mail is going out.</strong>{' '}
            {queued === 0 ? 'No message is waiting.' : `${plural(queued, 'message')} queued.`}
          </>
        )}
      </p>
      <Button needs="settings.write" look={stopped ? 'main' : 'plain'} onClick={() => setOpen(true)}>
        {stopped ? 'Start mail again …' : 'Stop all mail …'}
      </Button>
      {open &&
        (stopped ? (
          <StartDialog here={here} standing={standing} onClose={() => setOpen(false)} />
        ) : (
          <StopDialog here={here} standing={standing} onClose={() => setOpen(false)} />
        ))}
    </div>
  );
}

function waitingWords({ queued, overdue }: StandingAnswer): string {
  const messages =
    queued === 0 ? 'No message is waiting' : `${plural(queued, 'message')} ${queued === 1 ? 'is' : 'are'} waiting`;
  const rounds = overdue.length === 0 ? 'no check was missed' : `${plural(overdue.length, 'rule')} missed a check`;
  return `${messages}, and ${rounds}.`;
}

interface SwitchDialogProps {
  readonly here: CourseHere;
  readonly standing: StandingAnswer;
  readonly onClose: () => void;
}

function StopDialog({ here, standing, onClose }: SwitchDialogProps) {
  const [busy, setBusy] = useState(false);
  const stop = async () => {
    setBusy(true);
    const done = await attempt(() => ask(contract.course.stopMail, { course: here.id }));
    await refreshAll();
    setBusy(false);
    if (!done) return;
    toast('All mail of this course is stopped.');
    onClose();
  };
  const { queued } = standing;
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Stop all mail of ${here.course.code}`}
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Keep mail going
          </Button>
          <Button look="main" busy={busy} onClick={() => stop()}>
            Stop all mail
          </Button>
        </>
      }
    >
      <ul className="grid list-disc gap-2 py-5 pr-6 pl-10">
        <li>From this moment no message leaves. You can still send a test to yourself.</li>
        <li>
          {queued === 0
            ? 'No message is waiting now.'
            : `${plural(queued, 'message')} ${queued === 1 ? 'is' : 'are'} waiting and ${queued === 1 ? 'stays' : 'stay'} waiting.`}{' '}
          Messages that are being handed to the mail server right now still arrive.
        </li>
        <li>
          Rules do not run while mail is stopped. When you start it again, you choose what happens to missed checks.
        </li>
      </ul>
    </Dialog>
  );
}

const UNCLEAR: { readonly value: StartQueued; readonly words: string; readonly help: string } = {
  value: 'unclear',
  words: 'Mark the waiting messages as unclear',
  help: 'nothing is sent; you say in the Send log which ones arrived and which ones go again',
};
const QUEUED: readonly { readonly value: StartQueued; readonly words: string; readonly help: string }[] = [
  { value: 'send', words: 'Send the waiting messages', help: 'only to students who still match' },
  {
    value: 'withdraw',
    words: 'Cancel the waiting messages',
    help: 'they are never sent and do not count toward any limit',
  },
];
const MISSED: readonly { readonly value: MissedChoice; readonly words: string; readonly help: string }[] = [
  { value: 'look', words: 'Run missed rules now, once', help: 'each rule that missed a check, with all limits' },
  { value: 'skip', words: 'Continue with the next regular checks', help: 'missed checks are skipped' },
];

function StartDialog({ here, standing, onClose }: SwitchDialogProps) {
  const { copyFrom } = standing;
  // What a copy has not sent, the original may have.
  const [queued, setQueued] = useState<StartQueued>(copyFrom === null ? 'send' : 'unclear');
  const [missed, setMissed] = useState<MissedChoice>(copyFrom === null ? 'look' : 'skip');
  const [busy, setBusy] = useState(false);
  const start = async () => {
    setBusy(true);
    const done = await attempt(() => ask(contract.course.startMail, { course: here.id }, { body: { queued, missed } }));
    await refreshAll();
    setBusy(false);
    if (!done) return;
    toast('Mail is going out again.');
    onClose();
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Start mail of ${here.course.code} again`}
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Keep mail stopped
          </Button>
          <Button look="main" busy={busy} onClick={() => start()}>
            Start mail again
          </Button>
        </>
      }
    >
      <div className="grid gap-5 px-6 py-5">
        {copyFrom !== null && (
          <p>
            <strong>
              This is a backup from <When at={copyFrom} zone={here.course.timeZone} />.
            </strong>{' '}
            Messages that waited then may have been sent since, and rules may have run. Sending them from here could
            reach students twice.
          </p>
        )}
        {standing.queued > 0 && (
          <Choices
            legend={`${plural(standing.queued, 'message')} waiting`}
            all={copyFrom === null ? QUEUED : [UNCLEAR, ...QUEUED]}
            value={queued}
            onChange={setQueued}
          />
        )}
        {standing.overdue.length > 0 && (
          <Choices
            legend={`Checks missed by ${plural(standing.overdue.length, 'rule')}: ${standing.overdue.map((o) => o.name).join(', ')}`}
            all={MISSED}
            value={missed}
            onChange={setMissed}
          />
        )}
        {standing.queued + standing.overdue.length === 0 && <p>No message is waiting, and no check was missed.</p>}
      </div>
    </Dialog>
  );
}

function Choices<T extends string>(props: {
  readonly legend: string;
  readonly all: readonly { readonly value: T; readonly words: string; readonly help: string }[];
  readonly value: T;
  readonly onChange: (value: T) => void;
}) {
  return (
    <fieldset className="grid gap-1.5">
      <legend className="mb-1 font-semibold">{props.legend}</legend>
      {props.all.map((c) => (
        <label key={c.value} className="flex cursor-pointer items-start gap-2">
          <input
            type="radio"
            className="mt-1 size-4 accent-(--pine)"
            checked={props.value === c.value}
            onChange={() => props.onChange(c.value)}
          />
          <span>
            {c.words}
            <span className="block text-[13.5px] text-ink-2">{c.help}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}
