/** A message by hand: its text with fields, who gets it, each as they will read it, and then it goes. */
import { useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import {
  instantWords,
  isActiveStudent,
  plural,
  type Variant,
  type WritePreview,
  type WriteTo,
  type WrittenAnswer,
} from '@zest-bell/core';
import { api, ApiProblem, errorWords } from '../app/api.ts';
import type { Here } from '../app/here.ts';
import { refreshAll, useWordings } from '../app/queries.ts';
import { Button } from '../ui/Button.tsx';
import { Check } from '../ui/fields.tsx';
import { fromLocal, toLocal } from '../ui/instants.ts';
import { useSettled } from '../ui/useSettled.ts';
import { BY_HAND } from '../wording/draft.ts';
import { MessageView } from '../wording/Message.tsx';
import { WordsPart } from '../wording/WordsPart.tsx';

const REASON_WORDS = {
  inactive: 'inactive',
  paused: 'paused by the student',
  budget: 'message budget used up',
  noAddress: 'no email address',
  courseOver: 'the course is over by then',
  sameReader: 'another row is about the same person',
  nobody: 'names nobody',
  text: 'the text does not work for them',
} as const;

function kept(key: string, subject: string): Variant {
  const begun = subject === '' ? BY_HAND : { ...BY_HAND, subject };
  try {
    return { ...begun, ...(JSON.parse(localStorage.getItem(key) ?? '{}') as Partial<Variant>) };
  } catch {
    return begun;
  }
}

export function WriteDesk(props: {
  readonly here: Here;
  /** Columns of a sheet, as fields. */
  readonly columns: readonly string[];
  readonly addresses: readonly string[];
  /** Under which name the text waits in this browser. */
  readonly storeAs: string;
  readonly to: Pick<WriteTo, 'sheet' | 'rows' | 'students'>;
  /** What the subject says at first. */
  readonly subject?: string;
  readonly onSent: () => void;
}) {
  const { here } = props;
  const key = `zest-bell-writing ${here.id} ${props.storeAs}`;
  const [words, setWords] = useState(() => kept(key, props.subject ?? ''));
  const [student, setStudent] = useState(true);
  const [contacts, setContacts] = useState<readonly string[]>([]);
  const [columns, setColumns] = useState<readonly string[]>([]);
  const [passBudget, setPassBudget] = useState(false);
  const [notBefore, setNotBefore] = useState<number | null>(null);
  const [outside, setOutside] = useState<{ readonly asked: readonly string[]; readonly agreed: boolean }>({
    asked: [],
    agreed: false,
  });
  const [at, setAt] = useState(0);
  const [busy, setBusy] = useState(false);
  const to: WriteTo = { ...props.to, student, contacts, columns };
  const order = { to, subject: words.subject, text: words.text, passBudget, notBefore };
  const settled = useSettled(JSON.stringify({ ...order, at }), 300);
  const preview = useQuery({
    queryKey: ['write', here.id, settled, here.now],
    queryFn: ({ signal }) => api.post<WritePreview>(`/courses/${here.id}/write/preview`, JSON.parse(settled), signal),
    placeholderData: keepPreviousData,
    enabled: props.to.rows.length + props.to.students.length > 0,
  });
  const change = (part: Partial<Variant>) => {
    const next = { ...words, ...part };
    localStorage.setItem(key, JSON.stringify(next));
    setWords(next);
  };
  const wordings = useWordings(here.id);
  // The editor takes a text that did not come from typing by beginning anew.
  const [begun, setBegun] = useState(0);
  const begin = (next: Variant) => {
    change(next);
    setBegun((n) => n + 1);
  };
  const startFrom = (id: string) => {
    const wording = wordings.data?.find((w) => w.id === id);
    if (!wording) return;
    const before = words;
    begin({ subject: wording.subject, text: wording.text });
    toast(`This is now the text of “${wording.name}”. Change it as you like: the wording stays as it is.`, {
      action: { label: 'Undo', onClick: () => begin(before) },
    });
  };
  const lines = preview.data?.lines ?? [];
  const { total = 0, sending = 0, withBlanks = 0 } = preview.data ?? {};
  const held = lines.filter((l) => l.outcome !== 'sent');
  const kinds = [...new Set(here.course.people.flatMap((p) => p.contacts.map((c) => c.kind)))];
  const problemOf = (path: 'subject' | 'text') =>
    preview.data?.problems.find((p) => p.path === path && words[path].trim() !== '')?.message;
  const toggle = (list: readonly string[], name: string, on: boolean) =>
    on ? [...list, name] : list.filter((n) => n !== name);
  const send = async () => {
    setBusy(true);
    try {
      const done = await api.post<WrittenAnswer>(`/courses/${here.id}/write`, {
        ...order,
        outside: outside.agreed ? outside.asked : [],
      });
      localStorage.removeItem(key);
      await refreshAll();
      const later =
        notBefore !== null && notBefore > here.now ? `, to leave ${instantWords(notBefore, here.course.timeZone)}` : '';
      toast(`${plural(done.sent, 'message')} ${done.sent === 1 ? 'is' : 'are'} on the way${later}.`);
      setOutside({ asked: [], agreed: false });
      props.onSent();
    } catch (error) {
      if (error instanceof ApiProblem && error.code === 'outsideAddresses') {
        setOutside({ asked: error.problems.flatMap((p) => /to (\S+@\S+),/.exec(p.message)?.[1] ?? []), agreed: false });
      } else toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  const first = here.course.people.find(isActiveStudent)?.id ?? '';
  return (
    <div className="grid gap-4 min-[980px]:grid-cols-2">
      <section
        aria-label="Your message"
        className="grid content-start gap-3 rounded-[16px] border border-line bg-sheet px-5 py-4"
      >
        <div className="flex flex-wrap items-center gap-3">
          <h2 className="mr-auto text-[18px] font-bold">Your message</h2>
          <select
            aria-label="Start from a wording"
            className="field max-w-[260px] text-[14px]"
            value=""
            onChange={(e) => startFrom(e.target.value)}
          >
            <option value="">Start from a wording …</option>
            {(wordings.data ?? []).map((w) => (
              <option key={w.id} value={w.id}>
                {w.name}
              </option>
            ))}
          </select>
        </div>
        <WordsPart
          key={begun}
          here={here}
          words={words}
          when={null}
          student={first}
          problemOf={problemOf}
          onChange={change}
          columns={props.columns}
        />
        <fieldset className="grid gap-0.5">
          <legend className="text-[15px] font-bold">Who gets it</legend>
          <Check
            label={props.to.sheet === null ? 'The student' : 'The person of the row'}
            checked={student}
            onChange={setStudent}
          />
          {kinds.map((kind) => (
            <Check
              key={kind}
              label={`Their ${kind}`}
              checked={contacts.includes(kind)}
              onChange={(on) => setContacts(toggle(contacts, kind, on))}
            />
          ))}
          {props.addresses.map((name) => (
            <Check
              key={name}
              label={`The address in the column “${name}”`}
              checked={columns.includes(name)}
              onChange={(on) => setColumns(toggle(columns, name, on))}
            />
          ))}
        </fieldset>
        <fieldset className="grid gap-1">
          <legend className="text-[15px] font-bold">When</legend>
          <label className="flex flex-wrap items-center gap-2 text-[14.5px]">
            Not before
            <input
              type="datetime-local"
              className="field font-num text-[13.5px]"
              value={toLocal(notBefore, here.course.timeZone)}
              onChange={(e) =>
                setNotBefore(e.target.value === '' ? null : fromLocal(e.target.value, here.course.timeZone))
              }
            />
          </label>
          <p className="text-[13.5px] text-ink-2">Leave it empty to send at once. Quiet hours apply in any case.</p>
          <Check
            label="Write even to those whose message budget is used up. The log says that you did."
            checked={passBudget}
            onChange={setPassBudget}
          />
        </fieldset>
      </section>
      <section aria-label="As they will read it" aria-busy={preview.isFetching} className="grid content-start gap-3">
        <div className="flex items-center gap-2">
          <Button disabled={at === 0} onClick={() => setAt(at - 1)}>
            Previous
          </Button>
          <p className="min-w-0 flex-1 truncate text-center text-[14px] text-ink-2" role="status">
            {lines.length === 0
              ? 'Choose somebody to write to'
              : `${Math.min(at + 1, total)} of ${total}: ${preview.data?.name || lines[at]?.name || ''}`}
          </p>
          <Button disabled={at + 1 >= total} onClick={() => setAt(at + 1)}>
            Next
          </Button>
        </div>
        {preview.data?.message ? (
          <MessageView
            message={preview.data.message}
            from={here.answer.sender.name}
            to={
              preview.data.readers.join(', ') ||
              `nobody: ${lines[at]?.reason ? REASON_WORDS[lines[at].reason] : 'no address'}`
            }
            course={here.id}
          />
        ) : (
          <p className="rounded-[18px] border border-line bg-sheet p-5 text-ink-3">
            {lines[at]?.why ?? 'The message appears here.'}
          </p>
        )}
        {lines[at] && lines[at].blanks.length > 0 && (
          <p className="text-[14px] text-tangerine-text">
            ▲ {plural(lines[at].blanks.length, 'field')} without a value for this reader.
          </p>
        )}
        {total > sending && (
          <details className="rounded-xl bg-sheet px-4 py-2 text-[14px]">
            <summary className="font-semibold">{plural(total - sending, 'reader')} will get nothing</summary>
            <ul className="mt-1 max-h-40 overflow-auto">
              {held.map((l) => (
                <li key={l.key}>
                  <strong>{l.name}</strong>: {l.why ?? (l.reason && REASON_WORDS[l.reason])}
                </li>
              ))}
            </ul>
          </details>
        )}
        {withBlanks > 0 && (
          <p className="text-[14px] text-tangerine-text">
            ▲ {plural(withBlanks, 'message')} would have an empty field. Give the field a fallback, or leave those rows
            out.
          </p>
        )}
        {outside.asked.length > 0 && (
          <div role="alert" className="rounded-xl bg-tangerine-soft px-4 py-3">
            <p>
              ▲ This would write about students to {plural(outside.asked.length, 'address', 'addresses')} outside your
              institution: {outside.asked.join('; ')}
            </p>
            <Check
              label={<strong>Allow messages about students to these addresses</strong>}
              checked={outside.agreed}
              onChange={(agreed) => setOutside({ ...outside, agreed })}
            />
          </div>
        )}
        <div>
          <Button
            look="main"
            busy={busy}
            disabled={
              sending === 0 ||
              words.subject.trim() === '' ||
              preview.isFetching ||
              (outside.asked.length > 0 && !outside.agreed)
            }
            onClick={() => void send()}
          >
            {`Send ${plural(sending, 'message')}`}
          </Button>
        </div>
      </section>
    </div>
  );
}
