/** The Mailroom: mail as the people of the demo read it. A page of its own, so that it is not taken for Zest Bell's. */
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { Tabs } from 'radix-ui';
import { dayWords, instantWords, plural } from '@zest-bell/core/time';
import type { Letter, Mailbox } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { queryClient, useClock } from '../../lib/queries.ts';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { AnswerDesk } from './AnswerDesk.tsx';
import { ServerSwitch } from './ServerSwitch.tsx';

/** The demo's college keeps this zone. */
const ZONE = 'America/New_York';

export function MailroomPage() {
  const [params, setParams] = useSearchParams();
  const [search, setSearch] = useState('');
  const clock = useClock();
  const boxes = useQuery({
    queryKey: ['mailroom'],
    queryFn: () => ask(contract.demo.mailboxes),
    refetchInterval: 5000,
  });
  if (boxes.isError) return <Failed error={boxes.error} retry={() => void boxes.refetch()} />;
  if (!boxes.data) return <Loading what="the mailboxes" />;
  const wanted = search.toLowerCase();
  const shown = boxes.data.filter((b) => `${b.name} ${b.address}`.toLowerCase().includes(wanted));
  const box = boxes.data.find((b) => b.address === params.get('box')) ?? shown[0];
  return (
    <div className="flex h-full flex-col bg-[#e9e6df] text-[#26231c] dark:bg-[#1d1b17] dark:text-[#ece7dc]">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-black/15 px-5 py-2.5 dark:border-white/15">
        <h1 className="text-lg font-bold">Mailroom</h1>
        <p className="text-[13.5px]">
          Stands in for everyone’s email program in the demo. No message leaves this computer.
          {clock.data && <span className="font-num"> {instantWords(clock.data.now, ZONE)}</span>}
        </p>
        <span className="ml-auto">
          <ServerSwitch />
        </span>
        <Link to="/" className=" font-semibold underline underline-offset-4">
          Back to Zest Bell
        </Link>
      </header>
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)] min-[900px]:grid-cols-[260px_320px_minmax(0,1fr)]">
        <nav
          aria-label="Mailboxes"
          className="flex min-h-0 flex-col border-r border-black/15 max-[899px]:max-h-52 dark:border-white/15"
        >
          <input
            type="search"
            aria-label="Find a mailbox"
            placeholder="Find a person"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            className="m-3 rounded-md border border-black/40 bg-white/60 px-3 py-1.5 placeholder:text-current dark:border-white/30 dark:bg-black/30"
          />
          <ul className="min-h-0 flex-1 overflow-auto pb-3">
            {shown.map((b) => (
              <li key={b.address}>
                <button
                  aria-current={b.address === box?.address}
                  onClick={() => setParams({ box: b.address })}
                  className="flex w-full items-baseline gap-2 px-4 py-1.5 text-left outline-offset-[-3px] hover:bg-black/5 aria-[current=true]:bg-[#26231c] aria-[current=true]:text-[#f3efe6] dark:hover:bg-white/10 dark:aria-[current=true]:bg-[#ece7dc] dark:aria-[current=true]:text-[#26231c]"
                >
                  <span className={`min-w-0 flex-1 truncate ${b.unread > 0 ? 'font-bold' : ''}`}>{b.name}</span>
                  <span className="font-num text-[12.5px]" title={`${plural(b.letters, 'letter')}, ${b.unread} unread`}>
                    {b.unread > 0 ? `${b.unread} new` : b.letters > 0 ? b.letters : ''}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </nav>
        {box ? (
          <Box
            key={box.address}
            box={box}
            chosen={params.get('letter')}
            onChoose={(letter) => setParams({ box: box.address, letter })}
          />
        ) : (
          <Empty title="No matches" />
        )}
      </div>
    </div>
  );
}

function Box({
  box,
  chosen,
  onChoose,
}: {
  readonly box: Mailbox;
  readonly chosen: string | null;
  readonly onChoose: (letter: string) => void;
}) {
  const letters = useQuery({
    queryKey: ['mailroom', box.address, box.letters],
    queryFn: () => ask(contract.demo.mailbox, { address: box.address }),
    placeholderData: (old) => old,
  });
  const lines = letters.data ?? [];
  const shown = lines.find((l) => l.id === chosen) ?? lines[0];
  const letter = useQuery({
    queryKey: ['mailroom', box.address, 'letter', shown?.id],
    queryFn: async () => {
      const answer = await ask(contract.demo.letter, { address: box.address, letter: shown!.id });
      void queryClient.invalidateQueries({ queryKey: ['mailroom'], exact: true });
      return answer;
    },
    enabled: shown !== undefined,
    staleTime: Infinity,
  });
  if (letters.isError) return <Failed error={letters.error} />;
  if (!letters.data) return <Loading what="the messages" />;
  if (!shown) return <Empty title={`${box.name} has no mail yet`}>{box.address}</Empty>;
  return (
    <>
      <ul
        aria-label={`Messages to ${box.name}`}
        className="min-h-0 overflow-auto border-r border-black/15 bg-white/35 max-[899px]:max-h-56 dark:border-white/15 dark:bg-white/5"
      >
        {lines.map((l) => (
          <li key={l.id} className="border-b border-black/10 dark:border-white/10">
            <button
              aria-current={l === shown}
              onClick={() => onChoose(l.id)}
              className="w-full px-4 py-2.5 text-left outline-offset-[-3px] hover:bg-black/5 aria-[current=true]:bg-white dark:hover:bg-white/10 dark:aria-[current=true]:bg-black/40"
            >
              <span className="flex gap-2 text-[13px]">
                <span className="min-w-0 flex-1 truncate">{l.from.replace(/ <.*/, '')}</span>
                <span>{dayWords(l.at, ZONE)}</span>
              </span>
              <strong className="block truncate">{l.subject}</strong>
              <span className="block truncate text-[13.5px]">{l.firstLine}</span>
            </button>
          </li>
        ))}
      </ul>
      {letter.data ? <LetterView box={box} letter={letter.data} /> : <Loading what="the letter" />}
    </>
  );
}

function LetterView({ box, letter }: { readonly box: Mailbox; readonly letter: Letter }) {
  const tab = 'px-3 py-1.5 text-[13.5px] font-semibold data-[state=active]:underline underline-offset-8 decoration-2';
  return (
    <article tabIndex={0} className="min-h-0 overflow-auto bg-white text-[#26231c]" aria-label={letter.subject}>
      <div className="mx-auto max-w-[680px] px-7 py-6">
        <h2 className="font-body text-[22px] font-bold">{letter.subject}</h2>
        <p className="mt-1 text-[14px] text-[#55503f]">
          {letter.from}
          <br />
          to {letter.to} · {instantWords(letter.at, ZONE)}
        </p>
        <Tabs.Root defaultValue="html" className="mt-4">
          <Tabs.List aria-label="Show as" className="flex gap-1 border-b border-black/15">
            <Tabs.Trigger value="html" className={tab}>
              As the reader sees it
            </Tabs.Trigger>
            <Tabs.Trigger value="phone" className={tab}>
              On a phone
            </Tabs.Trigger>
            <Tabs.Trigger value="text" className={tab}>
              Plain text
            </Tabs.Trigger>
            <Tabs.Trigger value="headers" className={tab}>
              Headers
            </Tabs.Trigger>
          </Tabs.List>
          <Tabs.Content value="html" className="pt-4">
            <LetterFrame letter={letter} className="h-[420px] w-full" />
          </Tabs.Content>
          <Tabs.Content value="phone" className="pt-4">
            <LetterFrame
              letter={letter}
              className="mx-auto block h-[560px] w-[375px] max-w-full rounded-[30px] border-4 border-[#26231c] p-4"
            />
          </Tabs.Content>
          <Tabs.Content value="text" className="pt-4">
            <pre className="font-num text-[13.5px] whitespace-pre-wrap">{letter.text}</pre>
          </Tabs.Content>
          <Tabs.Content value="headers" className="pt-4">
            <dl className="grid grid-cols-[150px_1fr] gap-x-3 gap-y-1.5 font-num text-[13px]">
              {letter.headers.map((h, i) => (
                <div key={i} className="contents">
                  <dt className="text-[#55503f]">{h.name}</dt>
                  <dd className="break-all">{h.value}</dd>
                </div>
              ))}
            </dl>
          </Tabs.Content>
        </Tabs.Root>
        {(letter.files?.length ?? 0) > 0 && (
          <ul aria-label="Attachments" className="mt-3 flex flex-wrap gap-2 text-[14px]">
            {letter.files!.map((f) => (
              <li key={f.name}>
                <a
                  href={`data:${f.type};base64,${f.base64}`}
                  download={f.name}
                  className="inline-block rounded-md border border-black/40 px-2.5 py-1 font-semibold hover:bg-black/5"
                >
                  {f.name}
                </a>
              </li>
            ))}
          </ul>
        )}
        <AnswerDesk key={letter.id} box={box} letter={letter} />
      </div>
    </article>
  );
}

/** No scripts and no forms; a link opens beside. */
function LetterFrame({ letter, className }: { readonly letter: Letter; readonly className: string }) {
  return (
    <iframe
      title="The letter"
      sandbox="allow-popups allow-popups-to-escape-sandbox"
      srcDoc={`<base target="_blank"><style>body{font:16px/1.6 system-ui,sans-serif;color:#26231c;margin:0;overflow-wrap:anywhere}</style>${letter.html}`}
      className={className}
    />
  );
}
