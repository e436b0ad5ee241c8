/** A message by hand: its text with fields, who gets it, each as they will read it, and then it goes. */
import { useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { useLocation } from 'react-router';
import { instantWords, listWords, plural } from '@zest-bell/core/time';
import { isActiveStudent } from '@zest-bell/core/course';
import { saysNothing, unfinishedParts } from '@zest-bell/core/wording';
import { ASK_BY_HAND_ABOVE } from '@zest-bell/core/rounds';
import type { WriteTo } from '@zest-bell/core/imports';
import { type BodyGiven, contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { voiceHere } from '../../lib/voice.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll, useWordings } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Check } from '../../ui/fields.tsx';
import { fromLocal, toLocal } from '../../ui/instants.ts';
import { useKept } from '../../lib/useKept.ts';
import { useSettled } from '../../ui/useSettled.ts';
import { addressesWords } from './addressesWords.ts';
import { useWritten, type WrittenText } from '../../parts/editing/written.ts';
import { track } from '../../lib/sendings.ts';
import { Attachments } from '../../parts/wording/Attachments.tsx';
import { BY_HAND } from '../../parts/wording/draft.ts';
import { MessageView } from '../../parts/messages/Message.tsx';
import { AskUnfinished } from '../../parts/wording/AskUnfinished.tsx';
import { WordsPart } from '../../parts/wording/WordsPart.tsx';

const REASON_WORDS = {
  inactive: 'inactive',
  paused: 'paused by the student',
  budget: 'message budget used up',
  noAddress: 'no email address',
  courseOver: 'the course is over by then',
  sameReader: 'another row is about the same person',
  nobody: 'names nobody',
  text: 'the text does not work for them',
  blanks: 'a field of the text is empty for them',
} as const;

interface Ticks {
  readonly student: boolean;
  readonly contacts: readonly string[];
  readonly columns: readonly string[];
  readonly passBudget: boolean;
  /** Addresses outside the institution that Send asked about, and whether messages about students may go there. */
  readonly outside: { readonly asked: readonly string[]; readonly agreed: boolean };
}
const NOTHING_ASKED: Ticks['outside'] = { asked: [], agreed: false };
const NOTHING_TICKED: Ticks = { student: true, contacts: [], columns: [], passBudget: false, outside: NOTHING_ASKED };

/** A question that a press of Send asks is scrolled into view. */
const intoView = (question: HTMLElement | null): void => question?.scrollIntoView?.({ block: 'nearest' });

export function WriteDesk(props: {
  readonly here: CourseHere;
  /** Columns of a sheet, as fields. */
  readonly columns: readonly string[];
  readonly addresses: readonly string[];
  /** Under which name the text waits in this browser. */
  readonly storeAs: string;
  readonly to: Pick<WriteTo, 'sheet' | 'rows' | 'students'>;
  /** What the subject says at first. */
  readonly subject?: string;
  /** By which condition the students were found, in words. */
  readonly about?: string;
  readonly onSent: () => void;
}) {
  const { here } = props;
  const key = `writing ${here.id} ${props.storeAs}`;
  const begun: WrittenText = { ...BY_HAND, subject: props.subject ?? '', files: [], letter: null };
  const { value: words, set: setWords, drop } = useKept<WrittenText>(key, begun);
  const { pathname, search } = useLocation();
  // Kept like the text: who comes back finds what they had ticked.
  const ticks = useKept(`${key} to`, NOTHING_TICKED);
  // What a release before 0.20 kept has no answer about addresses.
  const { student, contacts, columns, passBudget, outside = NOTHING_ASKED } = ticks.value;
  const tick = (part: Partial<Ticks>) => ticks.set((now) => ({ ...now, ...part }));
  // Other addresses, another question.
  const sendTo = (part: Partial<Ticks>) => tick({ ...part, outside: NOTHING_ASKED });
  const [notBefore, setNotBefore] = useState<number | null>(null);
  const [at, setAt] = useState(0);
  const [busy, setBusy] = useState(false);
  const [withBlanks, setWithBlanks] = useState<readonly string[]>([]);
  const [yes, setYes] = useState(false);
  const to: WriteTo = { ...props.to, student, contacts, columns };
  const { subject, text, files, letter } = words;
  const order = { to, subject, text, files, letter, passBudget, notBefore, withBlanks };
  const settled = useSettled(JSON.stringify({ ...order, at }), 300);
  const preview = useQuery({
    queryKey: ['write', here.id, settled, here.now],
    queryFn: ({ signal }) =>
      ask(
        contract.mail.previewWriting,
        { course: here.id },
        { body: JSON.parse(settled) as BodyGiven<typeof contract.mail.previewWriting>, signal },
      ),
    placeholderData: keepPreviousData,
    enabled: props.to.rows.length + props.to.students.length > 0,
  });
  const change = (part: Partial<WrittenText>) => setWords((w) => ({ ...w, ...part }));
  const wordings = useWordings(here.id);
  // The editor takes a text that did not come from typing by beginning anew.
  const [edition, setEdition] = useState(0);
  const begin = (next: WrittenText) => {
    change(next);
    setEdition((n) => n + 1);
  };
  const startFrom = (id: string) => {
    const wording = wordings.data?.find((w) => w.id === id);
    if (!wording) return;
    const before = words;
    // Its files and its letter come along.
    begin({ subject: wording.subject, text: wording.text, files: wording.files, letter: wording.letter });
    toast(`This is now the text of “${wording.name}”. Change it as you like: the wording stays as it is.`, {
      action: { label: 'Undo', onClick: () => begin(before) },
    });
  };
  const lines = preview.data?.lines ?? [];
  const { total = 0, sending = 0, addresses = {}, blanks = [], asks = false } = preview.data ?? {};
  const nothing = saysNothing(text, voiceHere(here).signature);
  const emails = addressesWords(addresses, props.addresses);
  const unfinished = [...new Set([...unfinishedParts(subject), ...unfinishedParts(text)])];
  // A yes is to these words: what is typed after it is asked about again.
  const [asItIs, setAsItIs] = useState('');
  const mayLeave = unfinished.length === 0 || asItIs === unfinished.join('\n');
  const held = lines.filter((l) => l.outcome !== 'sent');
  const kinds = [...new Set(here.course.people.flatMap((p) => p.contacts.map((c) => c.kind)))];
  const problemOf = (path: 'subject' | 'text') =>
    preview.data?.problems.find((p) => p.path === path && words[path].trim() !== '')?.message;
  const toggle = (list: readonly string[], name: string, on: boolean) =>
    on ? [...list, name] : list.filter((n) => n !== name);
  const send = async () => {
    setBusy(true);
    try {
      const done = await ask(
        contract.mail.write,
        { course: here.id },
        { body: { ...order, outside: outside.agreed ? outside.asked : [], confirmed: yes } },
      );
      const restore = { path: `${pathname}${search}`, drafts: { [key]: words, [`${key} to`]: ticks.value } };
      useWritten.getState().keep(here.id, { text: words, about: props.about ?? '' });
      drop();
      ticks.drop();
      setEdition((n) => n + 1);
      setYes(false);
      setWithBlanks([]);
      const waits = track(done.sending, restore);
      const later =
        notBefore !== null && notBefore > here.now ? `, to leave ${instantWords(notBefore, here.course.timeZone)}` : '';
      if (!waits) toast(`${plural(done.sent, 'message')} ${done.sent === 1 ? 'is' : 'are'} on the way${later}.`);
      // At once: anyone who has gone on to another page in the meantime is not called back from it.
      props.onSent();
      await refreshAll();
    } catch (error) {
      if (error instanceof ApiProblem && error.code === 'outsideAddresses') {
        const asked = error.problems.flatMap((p) => /to (\S+@\S+),/.exec(p.message)?.[1] ?? []);
        tick({ outside: { asked, agreed: false } });
      } else toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  // The lists of fields show what a real reader of this message gets.
  const first = props.to.students[0] ?? here.course.people.find(isActiveStudent)?.id ?? '';
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
          key={edition}
          here={here}
          words={words}
          when={null}
          student={first}
          problemOf={problemOf}
          onChange={change}
          columns={props.columns}
        />
        <Attachments
          here={here}
          files={files ?? []}
          onChange={(edit) => setWords((w) => ({ ...w, files: [...edit(w.files ?? [])] }))}
        />
        {letter && (
          <p className="text-[14px] text-ink-2">
            The letter of the wording is attached as a PDF.{' '}
            <Button look="quiet" onClick={() => change({ letter: null })}>
              Leave the letter out
            </Button>
          </p>
        )}
        <fieldset className="grid gap-0.5">
          <legend className="text-[15px] font-bold">Who gets it</legend>
          <Check
            label={props.to.sheet === null ? 'The student' : 'The person of the row'}
            checked={student}
            onChange={(on) => sendTo({ student: on })}
          />
          {kinds.map((kind) => (
            <Check
              key={kind}
              label={`Their ${kind}`}
              checked={contacts.includes(kind)}
              onChange={(on) => sendTo({ contacts: toggle(contacts, kind, on) })}
            />
          ))}
          {props.addresses.map((name) => (
            <Check
              key={name}
              label={`The address in the column “${name}”`}
              checked={columns.includes(name)}
              onChange={(on) => sendTo({ columns: toggle(columns, name, on) })}
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
            label="Write even to those whose message budget is used up. The log records this."
            checked={passBudget}
            onChange={(on) => tick({ passBudget: on })}
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
            from={voiceHere(here).name}
            files={preview.data.files}
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
            <summary className="font-semibold">{plural(total - sending, 'recipient')} will get nothing</summary>
            <ul className="mt-1 max-h-40 overflow-auto">
              {held.map((l) => (
                <li key={l.key}>
                  <strong>{l.name}</strong>: {l.why ?? (l.reason && REASON_WORDS[l.reason])}
                </li>
              ))}
            </ul>
          </details>
        )}
        {blanks.length > 0 && (
          <fieldset className="rounded-xl bg-tangerine-soft px-4 py-2.5 text-[14px]">
            <legend className="sr-only">Messages with an empty field</legend>
            <p>
              ▲ {plural(blanks.length, 'message')} would have an empty field and {blanks.length === 1 ? 'is' : 'are'}{' '}
              left out. Give the field a fallback, or tick who gets it all the same.
            </p>
            <div className="mt-1 grid max-h-44 gap-0.5 overflow-auto">
              {blanks.map((b) => (
                <Check
                  key={b.key}
                  label={`${b.name}: no ${listWords(b.fields, 'or')}`}
                  checked={withBlanks.includes(b.key)}
                  onChange={(on) => setWithBlanks(toggle(withBlanks, b.key, on))}
                />
              ))}
            </div>
          </fieldset>
        )}
        {asks && (
          <div role="alert" className="rounded-xl bg-tangerine-soft px-4 py-3 text-[14.5px]">
            <p>
              ▲ That is <strong>{plural(sending, 'person', 'people')}</strong>. Zest Bell asks you above{' '}
              {Math.round(here.answer.guards.askAbove * 100)}% of the class, and above {ASK_BY_HAND_ABOVE} people.
            </p>
            <Check
              label={<strong>Write to {plural(sending, 'person', 'people')}</strong>}
              checked={yes}
              onChange={setYes}
            />
          </div>
        )}
        {outside.asked.length > 0 && (
          <div role="alert" ref={intoView} className="rounded-xl bg-tangerine-soft px-4 py-3">
            <p>
              ▲ This would write about students to {plural(outside.asked.length, 'address', 'addresses')} outside your
              institution: {outside.asked.join('; ')}
            </p>
            <Check
              label={<strong>Allow messages about students to these addresses</strong>}
              checked={outside.agreed}
              onChange={(agreed) => tick({ outside: { ...outside, agreed } })}
            />
          </div>
        )}
        {emails !== null && <p className="text-[14.5px] text-ink-2">{emails}.</p>}
        {sending > 0 && !nothing && unfinished.length > 0 && (
          <AskUnfinished
            parts={unfinished}
            act="Send it as it is"
            yes={mayLeave}
            onYes={(agreed) => setAsItIs(agreed ? unfinished.join('\n') : '')}
          />
        )}
        <div className="flex flex-wrap items-center gap-3">
          <Button
            look="main"
            busy={busy}
            disabled={
              !mayLeave ||
              sending === 0 ||
              nothing ||
              words.subject.trim() === '' ||
              preview.isFetching ||
              (asks && !yes) ||
              (outside.asked.length > 0 && !outside.agreed)
            }
            onClick={() => send()}
          >
            {sending === 0 ? 'Send' : `Send ${plural(sending, 'message')}`}
          </Button>
          <span className="text-[14px] text-ink-2" role="status">
            {nothing
              ? 'You have not written anything yet.'
              : words.subject.trim() === ''
                ? 'A message needs a subject.'
                : sending === 0 && total > 0
                  ? 'Nobody would get it.'
                  : ''}
          </span>
        </div>
      </section>
    </div>
  );
}
