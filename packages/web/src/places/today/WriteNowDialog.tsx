/** One message of a rule to one student, past its limits: read before it leaves, and logged with the name of who sends it. */
import { voiceHere } from '../../lib/voice.ts';
import { useState } from 'react';
import { toast } from 'sonner';
import { instantWords } from '@zest-bell/core/time';
import { firstOpen } from '@zest-bell/core/rounds';
import type { FallingLine } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { track } from '../../lib/sendings.ts';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { refreshAll, useRules, useWordings } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { SelectField } from '../../ui/fields.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { MessageView } from '../../parts/messages/Message.tsx';
import { usePreview } from '../../parts/messages/usePreview.ts';

export function WriteNowDialog(props: {
  readonly here: CourseHere;
  readonly line: FallingLine;
  readonly onClose: () => void;
}) {
  const { here, line } = props;
  const [wording, setWording] = useState(line.wording);
  const [busy, setBusy] = useState(false);
  const wordings = useWordings(here.id);
  const rules = useRules(here.id);
  const rule = rules.data?.find((card) => card.rule.id === line.rule)?.rule;
  const chosen = wordings.data?.find((w) => w.id === wording);
  const preview = usePreview(here, rule && chosen, line.student, { when: rule?.when ?? null });
  const person = here.course.people[here.course.personIndex.get(line.student) ?? -1];
  const firstName = person?.firstName || nameOf(here, line.student);
  const leaves = firstOpen(here.now, here.course.settings.quietHours, here.course);
  const send = async () => {
    setBusy(true);
    await attempt(async () => {
      const { sending } = await ask(
        contract.mail.letThrough,
        { course: here.id, student: line.student },
        { body: { rule: line.rule, wording } },
      );
      await refreshAll();
      if (!track(sending))
        toast(leaves > here.now ? `The message leaves when quiet hours end.` : `The message to ${firstName} is sent.`);
      props.onClose();
    });
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={`Write to ${nameOf(here, line.student)} now`}
      note={`This passes ${line.reason === 'budget' ? 'the message budget' : 'the limit of the rule'} this one time. The Send log records it with your name.`}
      foot={
        <Button look="main" busy={busy} disabled={!preview.data} onClick={() => send()}>
          {leaves > here.now ? 'Send after quiet hours' : `Send to ${firstName} now`}
        </Button>
      }
    >
      <div className="grid gap-4 bg-fog px-6 py-5">
        <SelectField label="Message" value={wording} onChange={(e) => setWording(e.target.value)}>
          {(wordings.data ?? [])
            .filter((w) => w.purpose !== 'toMyself')
            .map((w) => (
              <option key={w.id} value={w.id}>
                {w.name}
              </option>
            ))}
        </SelectField>
        {leaves > here.now && (
          <p className="text-[14px] text-ink-2">
            Quiet hours: it leaves {instantWords(leaves, here.course.timeZone)}, if {firstName} still matches.
          </p>
        )}
        {preview.isError && <Failed error={preview.error} />}
        {preview.isPending && <Loading what="the message" />}
        {preview.data && (
          <MessageView
            message={preview.data.message}
            from={voiceHere(here).name}
            to={person?.email ?? ''}
            course={here.id}
            files={preview.data.files}
          />
        )}
      </div>
    </Dialog>
  );
}
