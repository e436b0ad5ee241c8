/** What is known of a student, fact by fact; what is wrong is taken back, and no decision counts it from then on. */
import { useState } from 'react';
import { useInfiniteQuery } from '@tanstack/react-query';
import { numberWords, plural } from '@zest-bell/core/time';
import type { Person } from '@zest-bell/core/course';
import { EVENT_WORDS } from '@zest-bell/core/activity';
import type { KnownEvent, KnownGrade } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { sayChanged } from '../../parts/editing/useEdit.ts';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { useKept } from '../../lib/useKept.ts';
import { When } from '../../ui/When.tsx';

const capital = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);
const keyOf = (f: KnownEvent | KnownGrade): string => JSON.stringify(f);

export function FactsPart({ here, person }: { readonly here: CourseHere; readonly person: Person }) {
  const [wrong, setWrong] = useState<ReadonlySet<string>>(new Set());
  const { value: reason, set: setReason, drop } = useKept(`wrong ${here.id} ${person.id}`, '');
  const [busy, setBusy] = useState(false);
  const facts = useInfiniteQuery({
    ...atMoment(['student', here.id, person.id, 'facts'], here.now),
    queryFn: ({ pageParam }) =>
      ask(
        contract.intake.facts,
        { course: here.id, student: person.id },
        { query: { before: pageParam || undefined } },
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.more ? last.events.at(-1)!.at : undefined),
  });
  if (facts.isError) return <Failed error={facts.error} retry={() => void facts.refetch()} />;
  if (!facts.data) return <Loading what="the data" />;
  const [first] = facts.data.pages;
  const events = facts.data.pages.flatMap((p) => p.events);
  const { grades, retracted } = first!;
  const titleOf = (id: string | null) =>
    id === null ? '' : (here.course.items[here.course.itemIndex.get(id) ?? -1]?.title ?? id);
  const toggle = (key: string) => {
    const next = new Set(wrong);
    if (!next.delete(key)) next.add(key);
    setWrong(next);
  };
  const takeBack = async () => {
    setBusy(true);
    const answer = await attempt(() =>
      ask(
        contract.intake.retract,
        { course: here.id, student: person.id },
        {
          body: {
            events: events.filter((e) => wrong.has(keyOf(e))),
            grades: grades.filter((g) => wrong.has(keyOf(g))),
            reason,
          },
        },
      ),
    );
    setBusy(false);
    if (!answer) return;
    setWrong(new Set());
    drop();
    await refreshAll();
    sayChanged(here, answer);
  };
  if (events.length === 0 && grades.length === 0 && retracted.length === 0)
    return <Empty title="Nothing yet">No activity and no grades have come in for {person.firstName}.</Empty>;
  const row = (fact: KnownEvent | KnownGrade, words: string) => (
    <li key={keyOf(fact)} className="flex items-baseline gap-3 border-b border-line py-1.5 last:border-b-0">
      <input
        type="checkbox"
        className="size-4 translate-y-0.5 accent-(--pine)"
        aria-label={`Wrong: ${words}`}
        checked={wrong.has(keyOf(fact))}
        onChange={() => toggle(keyOf(fact))}
      />
      <span className="min-w-0 flex-1">{words}</span>
      <span className="text-[13.5px] whitespace-nowrap text-ink-2">
        <When at={fact.at} zone={here.course.timeZone} />
      </span>
    </li>
  );
  return (
    <div className="grid gap-3">
      {wrong.size > 0 && (
        <div className="sticky top-2 z-10 flex flex-wrap items-end gap-3 rounded-xl border border-line-strong bg-sheet px-4 py-3">
          <Labelled label="What is wrong">
            {(id) => (
              <input
                id={id}
                className="field w-72"
                value={reason}
                placeholder="Entered for the wrong student"
                onChange={(e) => setReason(e.target.value)}
              />
            )}
          </Labelled>
          <Button needs="data.write" look="main" busy={busy} disabled={reason.trim() === ''} onClick={() => takeBack()}>
            {`Take back ${plural(wrong.size, 'fact')}`}
          </Button>
        </div>
      )}
      {grades.length > 0 && (
        <section aria-label="Grades" className="rounded-[14px] border border-line bg-sheet px-4 py-2">
          <h3 className="text-[15px] font-bold">Grades</h3>
          <ul>
            {grades.map((g) =>
              row(g, `${numberWords(g.points)} points, ${titleOf(g.item)}${g.criterion ? `, ${g.criterion}` : ''}`),
            )}
          </ul>
        </section>
      )}
      {events.length > 0 && (
        <section aria-label="Activity" className="rounded-[14px] border border-line bg-sheet px-4 py-2">
          <h3 className="text-[15px] font-bold">Activity</h3>
          <ul>
            {events.map((e) => row(e, [capital(EVENT_WORDS[e.kind]), titleOf(e.item)].filter(Boolean).join(' ')))}
          </ul>
          {facts.hasNextPage && (
            <Button look="quiet" onClick={() => facts.fetchNextPage()}>
              Show older activity
            </Button>
          )}
        </section>
      )}
      {retracted.length > 0 && (
        <section aria-label="Taken back" className="rounded-[14px] border border-line bg-sheet px-4 py-2">
          <h3 className="text-[15px] font-bold">Taken back</h3>
          <ul>
            {retracted.map((r, i) => (
              <li key={i} className="border-b border-line py-1.5 text-[14px] last:border-b-0">
                <span className="line-through decoration-ink-3">{r.what}</span>
                <span className="block text-ink-2">
                  {r.reason} ({r.by}, <When at={r.at} zone={here.course.timeZone} />)
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}
