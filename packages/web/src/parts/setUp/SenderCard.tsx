/** The voice of the course, where answers go, and a test of the mail settings. */
import { useState } from 'react';
import { toast } from 'sonner';
import { domainsOf, type SenderSettings } from '@zest-bell/core/course';
import type { MailTestAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { useAsking } from '../../lib/useAsking.ts';
import type { CourseHere } from '../../lib/here.ts';
import { queryClient, refreshAll } from '../../lib/queries.ts';
import { useFormOf } from '../../lib/useFormOf.ts';
import { SenderMeanwhile } from './SenderMeanwhile.tsx';
import { Button } from '../../ui/Button.tsx';
import { SenderFields, TestSaid } from './SenderFields.tsx';
import { Labelled, SelectField } from '../../ui/fields.tsx';

export function SenderCard({ here }: { readonly here: CourseHere }) {
  const saved = here.answer.sender;
  const form = useFormOf<SenderSettings>(`sender ${here.id}`, saved, here.answer.settingsVersion);
  const { value: sender, set: setSender, dirty, drop, version, begunFrom } = form;
  const { busy, problemAt, clear, run } = useAsking();
  const [tested, setTested] = useState<MailTestAnswer | null>(null);
  const domains = (settings: SenderSettings) => (settings.domains ?? []).join(', ');
  // While it is typed it may end in a comma.
  const [typed, setTyped] = useState<string | null>(null);
  const problemOf = (key: string) => problemAt(`sender.${key}`);
  const change = (part: Partial<SenderSettings>) => {
    clear();
    setSender({ ...sender, ...part });
  };
  const save = () =>
    run(async () => {
      await ask(contract.course.sender, { course: here.id }, { body: { sender, version } });
      drop();
      toast('Saved. The next message uses these settings.');
      await refreshAll();
    });
  const test = () =>
    run(async () => {
      setTested(await ask(contract.course.testMail, { course: here.id }));
      await queryClient.invalidateQueries({ queryKey: ['setup', here.id] });
    });
  return (
    <section aria-label="Sender" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Sender</h2>
      {begunFrom && <SenderMeanwhile here={here} form={form} base={begunFrom} />}
      {!here.answer.pauseLinks && (
        <p className="mt-1 text-[14.5px] text-ink-2">
          Messages have no link for pausing nudges yet, because Zest Bell does not know its public address. The person
          who runs Zest Bell can set it (ZEST_PUBLIC_URL).
        </p>
      )}
      <div className="mt-2 grid gap-3 min-[760px]:grid-cols-2">
        <SenderFields sender={sender} problemOf={problemOf} onChange={change} />
        <Labelled label="Addresses that count as inside your institution" problem={problemOf('domains')}>
          {(id) => (
            <input
              id={id}
              className="field"
              placeholder={domainsOf({ ...sender, domains: [] }).join(', ')}
              title="Other domains count as outside your institution. Zest Bell asks you before a rule writes to them about students"
              value={typed ?? domains(sender)}
              onBlur={() => setTyped(null)}
              onChange={(e) => {
                setTyped(e.target.value);
                change({ domains: e.target.value.split(/[\s,;]+/).filter((d) => d !== '') });
              }}
            />
          )}
        </Labelled>
        <div>
          <SelectField
            label="Replies go"
            className="w-full"
            value={sender.answers ?? 'own'}
            onChange={(e) => change({ answers: e.target.value as 'own' | 'server' })}
          >
            <option value="own">straight to that address, so Zest Bell does not see them</option>
            <option value="server">to Zest Bell, which records them and forwards them to you</option>
          </SelectField>
          {problemOf('answers') && (
            <p className="mt-1 text-[13px] font-semibold text-tangerine-text">▲ {problemOf('answers')}</p>
          )}
        </div>
      </div>
      <div className="mt-4 flex flex-wrap items-center gap-3">
        <Button needs="settings.write" look="main" busy={busy} disabled={!dirty} onClick={() => save()}>
          {dirty ? 'Save sender' : 'Saved'}
        </Button>
        <Button needs="settings.write" busy={busy} disabled={dirty} onClick={() => test()}>
          Send a test to me
        </Button>
        {tested && <TestSaid answer={tested} />}
      </div>
    </section>
  );
}
