/**
 * From term to term: what was decided in another course comes into this one. Three steps on one page, which can be left and come
 * back to; what is shown is made by the code that then does it. Nothing rings by it.
 */
import { useState } from 'react';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { dateWords, plural } from '@zest-bell/core/time';
import { contract } from '@zest-bell/core/contract';
import type { CarryPreview } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { refreshAll, useCourses } from '../../lib/queries.ts';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { useKept, type KeptValue } from '../../lib/useKept.ts';
import { AlongPart } from './AlongPart.tsx';
import { BringRules } from './BringRules.tsx';
import { previewRequest, NO_CHOICES, rulesAlong, unmatched, type CarryChoiceState } from './choices.ts';
import { DatesPart } from './DatesPart.tsx';
import { MatchPart } from './MatchPart.tsx';
import { Section } from './Section.tsx';
import { TextsPart } from './TextsPart.tsx';
import { Page } from '../../ui/Page.tsx';

export function CarryPage() {
  const here = useHere();
  const courses = useCourses();
  const [search, setSearch] = useSearchParams();
  const files = useQuery({
    queryKey: ['carryFiles', here.id],
    queryFn: () => ask(contract.carry.files, { course: here.id }),
  });
  const choose = (one: string) => setSearch({ from: one }, { replace: true });
  if (courses.isPending) return <Loading what="your courses" />;
  if (courses.isError) return <Failed error={courses.error} retry={() => void courses.refetch()} />;
  const others = courses.data.filter((c) => c.id !== here.id);
  const from = search.get('from');
  const source = others.find((c) => String(c.id) === from)?.id ?? files.data?.find((f) => f.from === from)?.from;
  return (
    <Page title={`Carry over into ${here.course.code}`}>
      <p className="text-ink-2">
        Take rules, wordings and limits from another of your courses, or from a file. Dates move to this term. Nothing
        is sent until you turn a rule on.
      </p>
      {others.length === 0 && !files.data?.length ? (
        <Empty title="No other course yet">
          You carry over from one of your own courses, and this is the only one.{' '}
          <Link className="font-semibold text-pine underline underline-offset-4" to="/new">
            Create a course
          </Link>
          , or bring in a file of rules.
          <p className="mt-3">
            <BringRules here={here} onBrought={choose} />
          </p>
        </Empty>
      ) : (
        <fieldset className="mt-4 flex flex-wrap items-center gap-x-5 gap-y-1 rounded-[16px] border border-line bg-sheet px-5 py-3">
          <legend className="sr-only">Carry over from</legend>
          <span className="font-semibold">Carry over from</span>
          {others.map((c) => (
            <label key={c.id} className="flex items-center gap-2 py-1">
              <input type="radio" name="source" checked={source === c.id} onChange={() => choose(String(c.id))} />
              <span>
                <strong>{c.code}</strong> {c.title}
              </span>
            </label>
          ))}
          {files.data?.map((f) => (
            <label key={f.from} className="flex items-center gap-2 py-1">
              <input type="radio" name="source" checked={source === f.from} onChange={() => choose(f.from)} />
              <span>
                <strong>{f.code}</strong> {f.title} <span className="text-ink-2">from the file {f.name}</span>
              </span>
            </label>
          ))}
          <BringRules here={here} onBrought={choose} />
        </fieldset>
      )}
      {source !== undefined && <Carrying key={source} here={here} source={source} />}
    </Page>
  );
}

function Carrying({ here, source }: { readonly here: CourseHere; readonly source: number | string }) {
  const kept = useKept<CarryChoiceState>(`carry ${source} ${here.id}`, NO_CHOICES);
  const asked = previewRequest(source, kept.value);
  const preview = useQuery({
    queryKey: ['carry', here.id, asked],
    queryFn: () => ask(contract.carry.preview, { course: here.id }, { body: asked }),
    placeholderData: keepPreviousData,
  });
  if (preview.isError) return <Failed error={preview.error} retry={() => void preview.refetch()} />;
  if (!preview.data) return <Loading what="what you decided there" />;
  const shown = preview.data;
  if (shown.rules.length === 0)
    return (
      <Empty title="No rules to carry over">
        {shown.source.code} has no rules. Choose another course, or begin with a starter in Rules.
      </Empty>
    );
  const set = (part: Partial<CarryChoiceState>) => kept.set((now) => ({ ...now, ...part }));
  const parts = { here, preview: shown, choices: kept.value, set };
  return (
    <div className="mt-4 grid grid-cols-[minmax(0,1fr)] gap-4" aria-busy={preview.isFetching}>
      <AlongPart {...parts} />
      <MatchPart {...parts} />
      <Section
        title="3. Dates and texts"
        note={`${movedWords(shown.days / 7)} Rules that began or ended with ${shown.source.code} begin or end with ${here.course.code}.`}
      >
        <DatesPart {...parts} />
        <TextsPart {...parts} />
      </Section>
      <Foot here={here} source={source} preview={shown} kept={kept} />
    </div>
  );
}

const movedWords = (weeks: number): string =>
  weeks === 0
    ? 'Dates stay, as both courses begin in the same week.'
    : `Dates move ${weeks > 0 ? 'ahead' : 'back'} by ${plural(Math.abs(weeks), 'week')}, so weekdays stay.`;

function Foot(props: {
  readonly here: CourseHere;
  readonly source: number | string;
  readonly preview: CarryPreview;
  readonly kept: KeptValue<CarryChoiceState>;
}) {
  const { here, source, preview, kept } = props;
  const navigate = useNavigate();
  const [busy, setBusy] = useState(false);
  const rules = rulesAlong(preview, kept.value).length;
  const { none, alike } = unmatched(preview, kept.value);
  const carry = async () => {
    setBusy(true);
    const body = previewRequest(source, kept.value, preview);
    const done = await attempt(() => ask(contract.carry.over, { course: here.id }, { body }));
    setBusy(false);
    if (!done) return;
    kept.drop();
    await refreshAll();
    toast(`Carried over ${plural(rules, 'rule')} from ${preview.source.code}. Everything is still off.`);
    await navigate(`/c/${here.id}/today`);
  };
  return (
    <div className="sticky bottom-(--dock) z-10 max-[759px]:bottom-[calc(var(--dock)+var(--places))] flex flex-wrap items-center gap-x-4 gap-y-2 rounded-[16px] border border-line bg-sheet px-5 py-3 shadow-lg">
      <p className="min-w-0 flex-1 basis-72 text-[14.5px]">
        {none + alike > 0 ? (
          <span className="text-tangerine-text">
            ▲{' '}
            {[
              none > 0 && `${plural(none, 'item')} ${none === 1 ? 'has' : 'have'} no match`,
              alike > 0 && `${plural(alike, 'match', 'matches')} to confirm`,
            ]
              .filter(Boolean)
              .join(', ')}
            . A rule that names {none + alike === 1 ? 'it' : 'one of them'} comes along, and needs an item before you
            can turn it on.
          </span>
        ) : (
          <span className="text-ink-2">
            {preview.source.code} ran {dateWords(preview.source.start)} to {dateWords(preview.source.end)}. Today then
            lists what to look at.
          </span>
        )}
      </p>
      {kept.dirty && (
        <Button look="quiet" onClick={kept.drop}>
          Reset choices
        </Button>
      )}
      <Button look="main" busy={busy} disabled={rules === 0} onClick={() => carry()}>
        Carry over {plural(rules, 'rule')}
      </Button>
    </div>
  );
}
