/** How long what somebody sends by hand can be taken back: a setting of each person. */
import { useState } from 'react';
import { toast } from 'sonner';
import { rangeIn } from '@zest-bell/core/problem';
import { contract, sendDelay } from '@zest-bell/core/contract';
import { ask } from '../lib/api.ts';
import { attempt } from '../lib/attempt.ts';
import { queryClient } from '../lib/queries.ts';
import { Button } from '../ui/Button.tsx';
import { Dialog } from '../ui/Dialog.tsx';
import { Check, NumberField } from '../ui/fields.tsx';

export function DelayDialog({ seconds: saved, onClose }: { readonly seconds: number; readonly onClose: () => void }) {
  const [seconds, setSeconds] = useState(saved);
  const [busy, setBusy] = useState(false);
  const save = async () => {
    setBusy(true);
    await attempt(async () => {
      await ask(contract.access.sendDelay, {}, { body: { seconds } });
      await queryClient.invalidateQueries({ queryKey: ['session'] });
      toast(
        seconds === 0 ? 'What you send leaves at once.' : `You have ${seconds} seconds to take back what you send.`,
      );
      onClose();
    });
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title="Time to take a message back"
      note="What you send yourself waits this long, and you can stop it during that time: messages, answers, nudges from the Tray, and “Check now”. Messages that rules send by themselves do not wait."
      foot={
        <Button look="main" busy={busy} onClick={() => save()}>
          Save setting
        </Button>
      }
    >
      <div className="grid gap-3 px-6 py-4">
        <Check label="Wait before it leaves" checked={seconds > 0} onChange={(on) => setSeconds(on ? 10 : 0)} />
        {seconds > 0 && (
          <NumberField
            label="Seconds"
            {...rangeIn(sendDelay)}
            min={1}
            value={seconds}
            onChange={(n) => n !== null && setSeconds(n)}
          />
        )}
      </div>
    </Dialog>
  );
}
