/** Whose voice the course speaks in, where answers go, and a test of the mail settings. */
import { useState } from 'react';
import { toast } from 'sonner';
import { domainsOf, type MailTestAnswer, type Problem, type SenderSettings } from '@zest-bell/core';
import { api, ApiProblem, errorWords } from '../app/api.ts';
import type { Here } from '../app/here.ts';
import { refreshAll } from '../app/queries.ts';
import { Button } from '../ui/Button.tsx';
import { Labelled, SelectField } from '../ui/fields.tsx';

const FIELDS = [
  { key: 'name', label: 'Name that students see', long: false },
  { key: 'address', label: 'Address it is sent from', long: false },
  { key: 'replyTo', label: 'Where answers reach you', long: false },
  { key: 'officeHours', label: 'Office hours, as a sentence', long: false },
  { key: 'bookingUrl', label: 'Page where students book a time, if there is one', long: false },
  { key: 'signature', label: 'Signature', long: true },
] as const;

const SAID: Readonly<Record<MailTestAnswer['kind'], string>> = {
  sent: 'The mail server took it. Look into your own mailbox.',
  transient: 'The mail server would not take it now; it may later.',
  permanent: 'The mail server refused it, and would again.',
  unavailable: 'The mail server takes no mail from Zest Bell now. Its answer says why.',
  unknown: 'The line dropped while it was handed over; it may have arrived or not.',
};

export function SenderCard({ here }: { readonly here: Here }) {
  const saved = here.answer.sender;
  const [sender, setSender] = useState<SenderSettings>(saved);
  const [refused, setRefused] = useState<readonly Problem[]>([]);
  const [busy, setBusy] = useState(false);
  const [tested, setTested] = useState<MailTestAnswer | null>(null);
  const domains = (settings: SenderSettings) => (settings.domains ?? []).join(', ');
  const [domainText, setDomainText] = useState(domains(saved));
  const dirty = JSON.stringify(sender) !== JSON.stringify(saved);
  const problemOf = (key: string) => refused.find((p) => p.path === `sender.${key}`)?.message;
  const problemStarting = (key: string) => refused.find((p) => p.path.startsWith(`sender.${key}`))?.message;
  const change = (part: Partial<SenderSettings>) => {
    setRefused([]);
    setSender({ ...sender, ...part });
  };
  const act = async (work: () => Promise<void>) => {
    setBusy(true);
    try {
      await work();
    } catch (error) {
      setRefused(error instanceof ApiProblem ? error.problems : []);
      toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  const save = () =>
    act(async () => {
      await api.put(`/courses/${here.id}/sender`, { sender, version: here.answer.version });
      toast('Saved. The next message speaks in this voice.');
      await refreshAll();
    });
  const test = () => act(async () => setTested(await api.post<MailTestAnswer>(`/courses/${here.id}/mail/test`)));
  return (
    <section aria-label="Sender" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Sender</h2>
      {!here.answer.pauseLinks && (
        <p className="mt-1 text-[14.5px] text-ink-2">
          Messages carry no link for pausing nudges yet, because Zest Bell does not know its public address. Whoever
          runs it sets ZEST_PUBLIC_URL.
        </p>
      )}
      <div className="mt-2 grid gap-3 min-[760px]:grid-cols-2">
        {FIELDS.map((f) => (
          <Labelled key={f.key} label={f.label} problem={problemOf(f.key)}>
            {(id) =>
              f.long ? (
                <textarea
                  id={id}
                  rows={2}
                  className="field"
                  value={sender[f.key] ?? ''}
                  onChange={(e) => change({ [f.key]: e.target.value })}
                />
              ) : (
                <input
                  id={id}
                  className="field"
                  value={sender[f.key] ?? ''}
                  aria-invalid={problemOf(f.key) !== undefined}
                  onChange={(e) => change({ [f.key]: e.target.value })}
                />
              )
            }
          </Labelled>
        ))}
        <Labelled label="Your institution’s mail domains" problem={problemStarting('domains')}>
          {(id) => (
            <input
              id={id}
              className="field"
              placeholder={domainsOf({ ...sender, domains: [] }).join(', ')}
              title="Addresses of other domains count as outside: a rule that writes to them about students needs your yes"
              value={domainText}
              onChange={(e) => {
                setDomainText(e.target.value);
                change({ domains: e.target.value.split(/[\s,;]+/).filter((d) => d !== '') });
              }}
            />
          )}
        </Labelled>
        <div>
          <SelectField
            label="Answers go"
            className="w-full"
            value={sender.answers ?? 'own'}
            onChange={(e) => change({ answers: e.target.value as 'own' | 'server' })}
          >
            <option value="own">straight to that address; Zest Bell does not see them</option>
            <option value="server">to Zest Bell, which notes them and passes them on</option>
          </SelectField>
          {problemOf('answers') && (
            <p className="mt-1 text-[13px] font-semibold text-tangerine-text">▲ {problemOf('answers')}</p>
          )}
        </div>
      </div>
      <div className="mt-4 flex flex-wrap items-center gap-3">
        <Button look="main" busy={busy} disabled={!dirty} onClick={() => void save()}>
          {dirty ? 'Save the sender' : 'Saved'}
        </Button>
        <Button busy={busy} disabled={dirty} onClick={() => void test()}>
          Send me a test
        </Button>
        {tested && (
          <p role="status" className="min-w-0 flex-1 text-[14px]">
            {tested.kind === 'sent' ? '' : '▲ '}
            {SAID[tested.kind]} <span className="font-num text-[12.5px] break-words text-ink-3">{tested.response}</span>
          </p>
        )}
      </div>
    </section>
  );
}
