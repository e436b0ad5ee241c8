/** One student: where they stand, how to reach them, and everything between them and the instructor, the latest first. */
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { dayWords, fullName, type Person, type StudentAnswer, type StudentLine } from '@zest-bell/core';
import { api } from '../app/api.ts';
import { useHere, type Here } from '../app/here.ts';
import { refreshAll } from '../app/queries.ts';
import { attempt } from '../app/attempt.ts';
import { evidenceWords, withdrawnWords } from '../app/decisionWords.ts';
import { StateChip } from '../sendLog/StateChip.tsx';
import { Button } from '../ui/Button.tsx';
import { Pill } from '../ui/Pill.tsx';
import { Empty, Failed, Loading } from '../ui/States.tsx';
import { FactsPart } from './FactsPart.tsx';
import { When } from '../ui/When.tsx';

export function StudentPage() {
  const here = useHere();
  const { student = '' } = useParams();
  const [facts, setFacts] = useState(false);
  const person = here.course.people[here.course.personIndex.get(student) ?? -1];
  const answer = useQuery({
    queryKey: ['student', here.id, student, here.now],
    queryFn: () => api.get<StudentAnswer>(`/courses/${here.id}/students/${encodeURIComponent(student)}`),
    enabled: person !== undefined,
  });
  if (!person) return <Empty title="Student not found">This student is not in the course.</Empty>;
  if (answer.isError) return <Failed error={answer.error} retry={() => void answer.refetch()} />;
  if (!answer.data) return <Loading what={fullName(person)} />;
  return (
    <div className="mx-auto grid w-full max-w-[1240px] gap-5 px-5 py-6 min-[900px]:grid-cols-[320px_minmax(0,1fr)]">
      <About here={here} person={person} answer={answer.data} />
      <section aria-label="Timeline" className="min-w-0">
        <div className="mb-3 flex flex-wrap items-center gap-2">
          <Pill pressed={!facts} onClick={() => setFacts(false)}>
            Nudges and replies
          </Pill>
          <Pill pressed={facts} onClick={() => setFacts(true)}>
            Activity and grades
          </Pill>
          <Link
            className="ml-auto font-semibold text-pine underline-offset-4 hover:underline"
            to={`/c/${here.id}/write?student=${encodeURIComponent(person.id)}`}
          >
            Write a message
          </Link>
        </div>
        {facts ? (
          <FactsPart here={here} person={person} />
        ) : answer.data.lines.length === 0 ? (
          <Empty title="Nothing yet">No rule has nudged {person.firstName}, and nothing came back.</Empty>
        ) : (
          <ol className="border-l-2 border-line pl-5">
            {answer.data.lines.map((line, i) => (
              <LineView key={i} here={here} line={line} firstName={person.firstName} />
            ))}
          </ol>
        )}
      </section>
    </div>
  );
}

function About(props: { readonly here: Here; readonly person: Person; readonly answer: StudentAnswer }) {
  const { here, person, answer } = props;
  const zone = here.course.timeZone;
  return (
    <section aria-label="About the student" className="min-w-0">
      <h1 className="text-[26px] leading-tight font-bold break-words">{fullName(person)}</h1>
      <p className="mt-1 text-[14.5px] break-words text-ink-2">
        {person.email ?? 'no email address'}
        {person.section && `, section ${person.section}`}
      </p>
      {answer.bouncedAt !== null && <Bounced here={here} person={person} at={answer.bouncedAt} />}
      {person.paused && (
        <p className="mt-3 rounded-xl bg-iris-soft px-3.5 py-2.5 text-[14.5px]">
          <strong>Paused nudges</strong>
          {answer.pausedUntil !== null && ` until ${dayWords(answer.pausedUntil, zone)}`}. Only essential rules still
          write to {person.firstName}.
        </p>
      )}
      <dl className="mt-4 grid gap-2.5">
        {answer.facts.map((f) => (
          <div key={f.title} className="rounded-xl border border-line bg-sheet px-3.5 py-2">
            <dt className="text-[13px] text-ink-3">{f.title}</dt>
            <dd>
              <strong>{f.value}</strong> <span className="text-[13.5px] text-ink-2">{f.fact}</span>{' '}
              {f.among && <span className="block text-[13.5px] font-semibold">{f.among}</span>}
            </dd>
          </div>
        ))}
      </dl>
      {person.contacts.length > 0 && (
        <>
          <h2 className="mt-4 text-[15px] font-bold">Contacts</h2>
          <ul className="mt-1 text-[14.5px]">
            {person.contacts.map((c) => (
              <li key={`${c.kind} ${c.email}`} className="break-words">
                {c.name} <span className="text-ink-2">({c.kind})</span>
                <br />
                <span className="text-ink-2">{c.email}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** The address does not work: it says so until the instructor says otherwise. */
function Bounced(props: { readonly here: Here; readonly person: Person; readonly at: number }) {
  const { here, person, at } = props;
  const works = async () => {
    await attempt(async () => {
      await api.post(`/courses/${here.id}/students/${encodeURIComponent(person.id)}/address-works`);
      await refreshAll();
      toast(`Zest Bell writes to ${fullName(person)} again.`);
    });
  };
  return (
    <div className="mt-3 rounded-xl bg-tangerine-soft px-3.5 py-2.5 text-[14.5px]">
      <p>
        <span aria-hidden>▲ </span>
        <strong>Mail came back</strong> on {dayWords(at, here.course.timeZone)}: this address does not work.
      </p>
      <Button className="mt-2" onClick={() => void works()}>
        The address works again
      </Button>
    </div>
  );
}

const REPLY_TITLES = { reply: 'Replied', autoReply: 'Automatic reply', bounce: '▲ Mail came back' } as const;

function LineView(props: { readonly here: Here; readonly line: StudentLine; readonly firstName: string }) {
  const { here, line, firstName } = props;
  const zone = here.course.timeZone;
  const to = `/c/${here.id}/log?nudge=${line.nudge}`;
  return (
    <li className="relative pb-4">
      <span
        aria-hidden
        className={`absolute top-2 -left-[27px] size-3 rounded-full border-2 border-sheet ${DOTS[line.kind]}`}
      />
      <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <Link to={to} className="font-bold underline-offset-4 hover:underline">
          {line.kind === 'nudge' ? line.ruleName : line.kind === 'return' ? 'Came back' : REPLY_TITLES[line.kind]}
        </Link>
        <span className="text-[14px] text-ink-2">
          <When at={line.at} zone={zone} />
        </span>
        {line.kind === 'nudge' && <StateChip state={line.state} />}
      </p>
      {line.kind === 'nudge' ? (
        <p className="text-[14.5px] text-ink-2">
          {line.subject && <span className="text-ink">“{line.subject}” </span>}
          {line.reason ? withdrawnWords(line.reason) : evidenceWords(line.evidence, zone)}
        </p>
      ) : line.kind === 'return' ? (
        <p className="text-[14.5px] text-ink-2">
          {firstName} {line.what}.
        </p>
      ) : (
        <p className="max-h-40 overflow-auto rounded-xl bg-iris-soft px-3.5 py-2 text-[14.5px] whitespace-pre-line">
          {line.text || '(no text)'}
        </p>
      )}
    </li>
  );
}

const DOTS: Readonly<Record<StudentLine['kind'], string>> = {
  nudge: 'bg-pine',
  return: 'bg-zest',
  reply: 'bg-iris',
  autoReply: 'bg-line-strong',
  bounce: 'bg-tangerine',
};
