import type { FormEvent } from 'react';
import { plural } from '@zest-bell/core/time';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { useKept } from '../../lib/useKept.ts';

const REASONS = ['I spoke with the student', 'I wrote to them myself', 'It does not fit this student'] as const;

/** A nudge that does not go, for good, and why: the log keeps the reason. */
export function DismissDialog(props: {
  readonly count: number;
  readonly name: string;
  /** What the reason is about: under it a typed one is kept. */
  readonly about: string;
  readonly busy: boolean;
  readonly onClose: () => void;
  readonly onDismiss: (reason: string) => void;
}) {
  const { value: reason, set: setReason, drop } = useKept(`dismiss ${props.about}`, '');
  const submit = (e: FormEvent) => {
    e.preventDefault();
    if (reason.trim() === '') return;
    drop();
    props.onDismiss(reason);
  };
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={props.count === 1 ? `Dismiss the nudge to ${props.name}` : `Dismiss ${plural(props.count, 'nudge')}`}
      note="It is not sent. The log keeps your reason."
    >
      <form onSubmit={submit} className="grid gap-3 px-6 py-5">
        <span className="flex flex-wrap gap-2">
          {REASONS.map((r) => (
            <Button key={r} onClick={() => props.onDismiss(r)}>
              {r}
            </Button>
          ))}
        </span>
        <Labelled label="Another reason">
          {(id) => (
            <input id={id} autoFocus className="field" value={reason} onChange={(e) => setReason(e.target.value)} />
          )}
        </Labelled>
        <div>
          <Button look="main" type="submit" busy={props.busy} disabled={reason.trim() === ''}>
            {props.count === 1 ? 'Dismiss nudge' : `Dismiss ${plural(props.count, 'nudge')}`}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
