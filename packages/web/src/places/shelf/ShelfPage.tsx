/** The shelf of the institution: what it offers to all courses, with when to use it; taken from here, and retired by the people who keep it. */
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { contract } from '@zest-bell/core/contract';
import { isActiveStudent } from '@zest-bell/core/course';
import type { ShelfAnswer, ShelfItem } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { useShelf } from '../../lib/useShelf.ts';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { takenPath } from '../../parts/shelf/takenPath.ts';
import { spoken } from '../../parts/wording/spoken.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Page } from '../../ui/Page.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { When } from '../../ui/When.tsx';

const SHOWN = { rule: 'Starters', wording: 'Wordings' } as const;

export function ShelfPage() {
  const here = useHere();
  const shelf = useShelf(here);
  const [kind, setKind] = useState<ShelfItem['kind'] | null>(null);
  const [search, setSearch] = useState('');
  const wanted = search.trim().toLowerCase();
  const items = (shelf.data?.items ?? []).filter(
    (i) => (!i.isRetired || shelf.data?.mayKeep) && `${i.name} ${i.note} ${i.text}`.toLowerCase().includes(wanted),
  );
  const shown = items.filter((i) => kind === null || i.kind === kind);
  return (
    <Page
      title={`Shelf of ${shelf.data?.college ?? '…'}`}
      lead="Starters and wordings for every course. What you take is a draft of your own, and never changes by itself."
      filters={
        <>
          <input
            type="search"
            aria-label="Search the shelf"
            placeholder="Search names, notes, texts"
            className="field w-64"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          <div role="group" aria-label="Show" className="flex flex-wrap gap-1.5">
            <Pill pressed={kind === null} onClick={() => setKind(null)}>
              All {items.length}
            </Pill>
            {(['rule', 'wording'] as const).map((one) => (
              <Pill key={one} pressed={kind === one} onClick={() => setKind(one)}>
                {SHOWN[one]} {items.filter((i) => i.kind === one).length}
              </Pill>
            ))}
          </div>
        </>
      }
    >
      {shelf.isError ? (
        <Failed error={shelf.error} retry={() => void shelf.refetch()} />
      ) : shelf.isPending ? (
        <Loading what="the shelf" />
      ) : shown.length === 0 ? (
        <Empty title={items.length === 0 ? 'Nothing is on the shelf yet' : 'No matches'}>
          Administrators, and people whom they name, put rules and wordings here: “Put on the shelf” in the menu of a
          rule, or beside a wording.
        </Empty>
      ) : (
        <ul className="grid max-w-[1100px] grid-cols-1 gap-3">
          {shown.map((item) => (
            <OnShelf key={item.id} here={here} shelf={shelf.data} item={item} />
          ))}
        </ul>
      )}
    </Page>
  );
}

function OnShelf({
  here,
  shelf,
  item,
}: {
  readonly here: CourseHere;
  readonly shelf: ShelfAnswer;
  readonly item: ShelfItem;
}) {
  const navigate = useNavigate();
  const klass = here.course.people.filter(isActiveStudent).length;
  const copies = shelf.copies.filter((c) => c.item === item.id);
  const take = () =>
    attempt(async () => {
      const taken = await ask(contract.shelf.take, { course: here.id, item: item.id });
      await refreshAll();
      await navigate(takenPath(here.id, taken));
    });
  const retire = () =>
    attempt(async () => {
      await ask(contract.shelf.retire, { item: item.id }, { body: { isRetired: !item.isRetired } });
      await refreshAll();
    });
  return (
    <li className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h2 className="min-w-0 flex-1 basis-60 text-[17px] font-bold">{item.name}</h2>
        <Chip tone={item.kind === 'rule' ? 'zest' : 'iris'}>
          {item.kind === 'wording' ? 'wording' : item.needs === null ? `${item.matching} of ${klass} now` : 'starter'}
        </Chip>
        {item.isRetired && <Chip tone="quiet">retired</Chip>}
      </div>
      <p className="mt-1 max-w-[80ch]">{item.note}</p>
      <p className="mt-1 max-w-[90ch] text-[14.5px] text-ink-2">{item.sentence ?? item.needs ?? spoken(item.text)}</p>
      <p className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2 text-[14px] text-ink-2">
        <span>
          version {item.version}, {item.by}, <When at={item.at} zone={here.course.timeZone} />
        </span>
        {copies.map((c) => (
          <Link
            key={c.key}
            className="font-semibold text-pine underline-offset-4 hover:underline"
            to={takenPath(here.id, c)}
          >
            {c.version < item.version ? `Here as version ${c.version}` : 'Already here'}
          </Link>
        ))}
        <span className="ml-auto flex gap-2">
          {shelf.mayKeep && <Button onClick={() => retire()}>{item.isRetired ? 'Offer it again' : 'Retire'}</Button>}
          {!item.isRetired && (
            <Button needs="drafts.write" look="main" onClick={() => take()}>
              Take a copy
            </Button>
          )}
        </span>
      </p>
      {item.versions.length > 1 && (
        <details className="mt-1 text-[14px]">
          <summary className="text-ink-2">Earlier versions</summary>
          <ul className="mt-1 grid gap-1">
            {item.versions.slice(1).map((v) => (
              <li key={v.version}>
                Version {v.version}, {v.by}, <When at={v.at} zone={here.course.timeZone} />: {v.note}
              </li>
            ))}
          </ul>
        </details>
      )}
    </li>
  );
}
