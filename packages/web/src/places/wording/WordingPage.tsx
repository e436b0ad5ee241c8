/** The library of wordings: what each is for, who uses it, how often it was sent. */
import { copyName } from '../../ui/copyName.ts';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { textsOf, WORDING_PURPOSES, type WordingPurpose } from '@zest-bell/core/wording';
import type { TextResults } from '@zest-bell/core/outcomes';
import type { WordingAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { AskElsewhere } from '../../parts/common/AskElsewhere.tsx';
import { SetNote } from '../../parts/common/SetNote.tsx';
import { setPath, useSetCards } from '../../lib/sets.ts';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { ask } from '../../lib/api.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { useShelfStanding } from '../../lib/useShelf.ts';
import { PutOnShelf } from '../../parts/shelf/PutOnShelf.tsx';
import { ShelfNote } from '../../parts/shelf/ShelfNote.tsx';
import { OutcomeFigures } from '../../parts/common/OutcomeFigures.tsx';
import { refreshAll, useWordingResults, useWordings } from '../../lib/queries.ts';
import { attempt } from '../../lib/attempt.ts';
import { Button, LinkButton } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { PURPOSE_TONES, PURPOSE_WORDS } from '../../parts/wording/purposes.ts';
import { spoken } from '../../parts/wording/spoken.ts';
import { bodyOf } from '../../parts/messages/usePreview.ts';
import { WordingDialog } from '../../parts/wording/WordingDialog.tsx';

const FRESH = {
  name: 'A new wording',
  purpose: 'support',
  subject: 'About {{ course.title }}',
  text: '{{ student.first_name | default: "Hello" }},\n\nHow are things going in {{ course.title }}? If something is in the way, reply to this message. {{ sender.office_hours | default: "I am glad to find a time to talk" }}.\n\n{{ sender.signature }}',
} as const;

export function WordingPage() {
  const here = useHere();
  const wordings = useWordings(here.id);
  const results = useWordingResults(here.id);
  const shelf = useShelfStanding(here);
  const [putting, setPutting] = useState<string | null>(null);
  const [search, setSearch] = useState('');
  const [purpose, setPurpose] = useState<WordingPurpose | null>(null);
  const asked = useSearchParams()[0].get('wording');
  const [open, setOpen] = useState<string | null>(asked);
  const [saved, setSaved] = useState<WordingAnswer | null>(null);
  const sets = useSetCards(here.id);
  const savedSet = sets.data?.find((c) => c.kind === 'wording' && c.key === saved?.id && c.courses > 1);
  if (wordings.isPending)
    return (
      <PlacePage place="wording">
        <Loading what="the wordings" />
      </PlacePage>
    );
  if (wordings.isError)
    return (
      <PlacePage place="wording">
        <Failed error={wordings.error} retry={() => void wordings.refetch()} />
      </PlacePage>
    );
  const all = wordings.data;
  const wanted = search.trim().toLowerCase();
  const shown = all.filter((w) => {
    const words = [w.name, ...textsOf(w).flatMap((t) => [t.subject, t.text])].join(' ').toLowerCase();
    return (purpose === null || w.purpose === purpose) && words.includes(wanted);
  });
  const opened = all.find((w) => w.id === open);
  const create = async (from: object) => {
    const made = await attempt(() => ask(contract.wording.make, { course: here.id }, { body: { wording: from } }));
    if (!made) return;
    await refreshAll();
    setOpen(made.id);
  };
  const remove = async (w: WordingAnswer) => {
    const gone = await attempt(() =>
      ask(contract.wording.remove, { course: here.id, wording: w.id }, { body: { version: w.version } }).then(
        () => true,
      ),
    );
    if (!gone) return;
    await refreshAll();
    const { id: _id, ...words } = bodyOf(w);
    toast(`Removed “${w.name}”.`, {
      action: {
        label: 'Undo',
        onClick: () =>
          void attempt(() =>
            ask(contract.wording.make, { course: here.id }, { body: { wording: words } }).then(refreshAll),
          ),
      },
    });
  };
  return (
    <PlacePage
      place="wording"
      actions={
        <>
          <LinkButton to={`/c/${here.id}/merge`}>Mail merge from a sheet</LinkButton>
          <LinkButton to={`/c/${here.id}/shelf`}>From the shelf</LinkButton>
          <Button look="main" onClick={() => create(FRESH)}>
            New wording
          </Button>
        </>
      }
      filters={
        <>
          <input
            aria-label="Search wordings"
            placeholder="Search names and texts"
            className="field w-72"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          <div role="group" aria-label="Show wordings for" className="flex flex-wrap gap-1.5">
            {[null, ...WORDING_PURPOSES].map((p) => (
              <Pill key={p ?? 'all'} pressed={purpose === p} onClick={() => setPurpose(p)}>
                {p === null ? 'all' : PURPOSE_WORDS[p]}{' '}
                <span className="font-num text-[12.5px] font-normal">
                  {all.filter((w) => p === null || w.purpose === p).length}
                </span>
              </Pill>
            ))}
          </div>
        </>
      }
    >
      {shown.length === 0 ? (
        <Empty title={all.length === 0 ? 'No wordings yet' : 'No matches'}>
          Every starter for a rule brings its own wording. Start with “New rule” in Rules, or write one here.
        </Empty>
      ) : (
        <ul className="grid grid-cols-1 gap-3 min-[860px]:grid-cols-2">
          {shown.map((w) => (
            <WordingCard
              key={w.id}
              here={here}
              wording={w}
              onPut={shelf.data?.mayKeep ? () => setPutting(w.id) : null}
              results={results.data?.[w.id]}
              onOpen={() => setOpen(w.id)}
              onRemove={() => void remove(w)}
              onCopy={() => {
                const { id: _id, ...words } = bodyOf(w);
                void create({ ...words, name: copyName(w.name, 80) });
              }}
            />
          ))}
        </ul>
      )}
      {opened && (
        <WordingDialog
          key={`${opened.id} ${opened.version}`}
          here={here}
          wording={opened}
          rule={null}
          student={null}
          onClose={() => setOpen(null)}
          onSaved={() => setSaved(opened)}
        />
      )}
      {putting !== null && shelf.data && (
        <PutOnShelf here={here} shelf={shelf.data} kind="wording" of={putting} onClose={() => setPutting(null)} />
      )}
      {saved && !opened && savedSet && (
        <AskElsewhere course={here.id} card={savedSet} name={saved.name} onClose={() => setSaved(null)} />
      )}
    </PlacePage>
  );
}

function WordingCard(props: {
  readonly here: CourseHere;
  /** Null for people who may put nothing on the shelf. */
  readonly onPut: (() => void) | null;
  readonly wording: WordingAnswer;
  /** What came of it, once that is known. */
  readonly results: TextResults | undefined;
  readonly onOpen: () => void;
  readonly onCopy: () => void;
  readonly onRemove: () => void;
}) {
  const { wording: w } = props;
  const more = w.variants.length;
  return (
    <li className="flex flex-col rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="flex items-baseline gap-3 text-[17px] font-bold">
        <button type="button" onClick={props.onOpen} className="min-w-0 flex-1 truncate text-left hover:underline">
          {w.name}
        </button>
        <Chip tone={PURPOSE_TONES[w.purpose]}>{PURPOSE_WORDS[w.purpose]}</Chip>
      </h2>
      <p className="mt-1 truncate font-semibold">{spoken(w.subject)}</p>
      <p className="line-clamp-2 text-[14.5px] text-ink-2">{spoken(w.text)}</p>
      <SetNote course={props.here.id} kind="wording" of={w.id} />
      <ShelfNote here={props.here} kind="wording" of={w.id} />
      <p className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 text-[14px] text-ink-2">
        <span>{more === 0 ? 'one text' : `${more + 1} texts`}</span>
        {w.onTrial && <Chip tone="zest">fair trial running</Chip>}
        <span>{w.usedBy.length === 0 ? 'not used by any rule' : `used by ${w.usedBy.join(', ')}`}</span>
        {props.results && props.results.all.sent > 0 && <OutcomeFigures of={props.results.all} />}
        <span className="ml-auto flex gap-4">
          {w.usedBy.length === 0 && (
            <button
              type="button"
              aria-label={`Remove ${w.name}`}
              onClick={props.onRemove}
              className="font-semibold text-pine underline-offset-4 hover:underline"
            >
              Remove
            </button>
          )}
          {props.onPut && (
            <button
              type="button"
              aria-label={`Put on the shelf: ${w.name}`}
              onClick={props.onPut}
              className="font-semibold text-pine underline-offset-4 hover:underline"
            >
              Put on the shelf
            </button>
          )}
          <Link
            aria-label={`Use ${w.name} in other courses`}
            to={setPath(props.here.id, 'wording', w.id)}
            className="font-semibold text-pine underline-offset-4 hover:underline"
          >
            Other courses
          </Link>
          <button
            type="button"
            aria-label={`Copy ${w.name}`}
            onClick={props.onCopy}
            className="font-semibold text-pine underline-offset-4 hover:underline"
          >
            Copy
          </button>
        </span>
      </p>
    </li>
  );
}
