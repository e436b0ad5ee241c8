/** Puts a rule or a wording on the shelf of the institution: what would go there, what of it is still of this course, and when to use it. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { LONGEST_SHELF_NOTE, type ShelfKind, type ShelfStanding } from '@zest-bell/core/exchange';
import type { CourseWord, CourseWordKind } from '@zest-bell/core/shelf';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { useAsking } from '../../lib/useAsking.ts';
import { useKept } from '../../lib/useKept.ts';
import { Failed, Loading } from '../common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled, SelectField } from '../../ui/fields.tsx';

const KIND_WORDS: Readonly<Record<CourseWordKind, string>> = {
  person: 'a person',
  address: 'an address',
  item: 'an item',
  group: 'a group of items',
  section: 'a section',
  file: 'an attached file',
  title: 'the course title',
  code: 'the course code',
  date: 'a date of this term',
  weekday: 'a day of this term',
  year: 'a year',
  season: 'a term',
  link: 'a link of this course',
};

interface PutOnShelfProps {
  readonly here: CourseHere;
  readonly shelf: ShelfStanding;
  readonly kind: ShelfKind;
  readonly of: string;
  readonly onClose: () => void;
}

export function PutOnShelf({ here, shelf, kind, of, onClose }: PutOnShelfProps) {
  const look = useQuery({
    queryKey: ['shelfLook', here.id, kind, of],
    queryFn: () => ask(contract.shelf.look, { course: here.id }, { body: { kind, key: of } }),
    staleTime: 0,
  });
  const alike = shelf.items.filter((i) => i.kind === kind);
  const copied = shelf.copies.find((c) => c.kind === kind && c.key === of)?.item;
  const [chosen, setChosen] = useState<number | null | undefined>();
  // Until somebody chooses: what it was taken from, or what is called the same.
  const item = chosen === undefined ? (copied ?? alike.find((i) => i.name === look.data?.name)?.id ?? null) : chosen;
  const kept = useKept(`shelf ${here.id} ${kind} ${of}`, '');
  const [keepWords, setKeepWords] = useState(false);
  const { busy, problemAt, clear, run } = useAsking();
  const words = look.data?.words ?? [];
  const isBlocked = words.some((w) => !w.mayStay);
  const put = () =>
    run(async () => {
      const body = { kind, key: of, note: kept.value, keepWords, ...(item === null ? {} : { item }) };
      const { version } = await ask(contract.shelf.put, { course: here.id }, { body });
      kept.drop();
      await refreshAll();
      toast(
        version === 1
          ? `On the shelf. Every course finds it under ${shelf.college}.`
          : `Version ${version} is on the shelf. Courses that have it are told; theirs stay as they are.`,
      );
      onClose();
    });
  return (
    <Dialog
      open
      onClose={onClose}
      title={kind === 'rule' ? 'Put this rule on the shelf' : 'Put this wording on the shelf'}
      note={`All courses find it under ${shelf.college}, and take copies of their own. The saved version goes there.`}
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Cancel
          </Button>
          <Button
            look="main"
            busy={busy}
            disabled={!look.data || isBlocked || (words.length > 0 && !keepWords) || kept.value.trim() === ''}
            onClick={() => put()}
          >
            Put it on the shelf
          </Button>
        </>
      }
    >
      {look.isError ? (
        <Failed error={look.error} retry={() => void look.refetch()} />
      ) : look.isPending ? (
        <Loading what="what would go on the shelf" />
      ) : (
        <div className="grid gap-4 px-6 py-5">
          {alike.length > 0 && (
            <SelectField
              label="As"
              value={item ?? ''}
              onChange={(e) => setChosen(e.target.value === '' ? null : Number(e.target.value))}
            >
              <option value="">something new: {look.data.name}</option>
              {alike.map((i) => (
                <option key={i.id} value={i.id}>
                  a new version of “{i.name}”{i.isRetired && ' (retired)'}
                </option>
              ))}
            </SelectField>
          )}
          <Labelled label="When to use it" problem={problemAt('note')}>
            {(id) => (
              <textarea
                id={id}
                rows={3}
                className="field w-full"
                maxLength={LONGEST_SHELF_NOTE}
                placeholder="In the first four weeks, while students still get used to the course"
                value={kept.value}
                onChange={(e) => {
                  clear();
                  kept.set(e.target.value);
                }}
              />
            )}
          </Labelled>
          {words.length === 0 ? (
            <p className="text-[14.5px] text-ink-2">
              It names nobody and nothing of this course, as far as Zest Bell can tell. Nothing about any student goes
              along.
            </p>
          ) : (
            <section aria-label="Still of this course">
              <h3 className="font-bold">Still of this course</h3>
              <ul className="mt-1 grid gap-1.5">
                {words.map((w, i) => (
                  <Word key={i} word={w} />
                ))}
              </ul>
              {isBlocked ? (
                <p role="alert" className="mt-2 text-[14.5px] font-semibold text-tangerine-text">
                  ▲ People, addresses, files, and what a rule names cannot go along. Change them here first, or in a
                  copy.
                </p>
              ) : (
                <label className="mt-2 flex items-start gap-2 text-[14.5px]">
                  <input
                    type="checkbox"
                    className="mt-1 size-4"
                    checked={keepWords}
                    onChange={(e) => setKeepWords(e.target.checked)}
                  />
                  All of this fits any course. Leave it as it is.
                </label>
              )}
            </section>
          )}
        </div>
      )}
    </Dialog>
  );
}

const Word = ({ word: { kind, before, found, after, mayStay } }: { readonly word: CourseWord }) => (
  <li className="text-[14.5px] break-words">
    <span className={mayStay ? 'text-ink-2' : 'font-semibold text-tangerine-text'}>{KIND_WORDS[kind]}:</span> {before}
    <mark className="rounded bg-brass-soft px-0.5">{found}</mark>
    {after}
  </li>
);
