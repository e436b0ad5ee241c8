/** The term week by week: its days, its breaks, and everything that is due. */
import { useState } from 'react';
import { Link } from 'react-router';
import { dateOf, dayNumberOf, timeWords, weekdayDateWords, weekdayIndex, type Break } from '@zest-bell/core/time';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { DateField, Labelled } from '../../ui/fields.tsx';
import { ZoneField } from '../../parts/common/ZoneField.tsx';
import { CalendarCard } from './CalendarCard.tsx';
import { CourseTabPage } from './CourseTabPage.tsx';
import { Collisions } from '../../parts/editing/Collisions.tsx';
import { AskSilence, newSilences } from '../../parts/editing/AskSilence.tsx';
import { useEdit } from '../../parts/editing/useEdit.ts';

export function CalendarPage() {
  const here = useHere();
  return (
    <CourseTabPage here={here} tab="/calendar">
      <div className="grid gap-4 min-[980px]:grid-cols-[minmax(0,1fr)_minmax(0,1.4fr)]">
        <div className="grid content-start gap-4">
          <Details key={`details ${here.answer.settingsVersion}`} here={here} />
          <Breaks here={here} />
          <CalendarCard here={here} />
        </div>
        <Weeks here={here} />
      </div>
    </CourseTabPage>
  );
}

function Details({ here }: { readonly here: CourseHere }) {
  const { code, title, timeZone, start, end, url } = here.course;
  const saved = { code, title, timeZone, start, end, url: url ?? '' };
  const [draft, setDraft] = useState(saved);
  const edit = useEdit(here);
  const set = (part: Partial<typeof draft>) => {
    edit.clear();
    setDraft({ ...draft, ...part });
  };
  const dirty = JSON.stringify(draft) !== JSON.stringify(saved);
  return (
    <section aria-label="The course" className="grid gap-3 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">The course</h2>
      <Labelled label="Title" problem={edit.problemOf('title')}>
        {(id) => (
          <input id={id} className="field" value={draft.title} onChange={(e) => set({ title: e.target.value })} />
        )}
      </Labelled>
      <div className="grid grid-cols-2 gap-3">
        <Labelled label="Code" problem={edit.problemOf('code')}>
          {(id) => (
            <input
              id={id}
              className="field min-w-0"
              value={draft.code}
              onChange={(e) => set({ code: e.target.value })}
            />
          )}
        </Labelled>
        <ZoneField
          value={draft.timeZone}
          problem={edit.problemOf('timeZone')}
          onChange={(zone) => set({ timeZone: zone })}
        />
        <DateField
          label="First day"
          value={draft.start}
          problem={edit.problemOf('start')}
          onChange={(date) => set({ start: date })}
        />
        <DateField
          label="Last day"
          value={draft.end}
          problem={edit.problemOf('end')}
          onChange={(date) => set({ end: date })}
        />
      </div>
      <Labelled label="Page on the learning platform" problem={edit.problemOf('url')}>
        {(id) => (
          <input
            id={id}
            className="field"
            placeholder="https://"
            value={draft.url}
            onChange={(e) => set({ url: e.target.value })}
          />
        )}
      </Labelled>
      <div className="flex gap-2">
        <Button
          needs="data.write"
          look="main"
          busy={edit.busy}
          disabled={!dirty}
          onClick={() => edit.save({ details: draft })}
        >
          {dirty ? 'Save course' : 'Saved'}
        </Button>
        {dirty && <Button onClick={() => set(saved)}>Discard changes</Button>}
      </div>
    </section>
  );
}

function Breaks({ here }: { readonly here: CourseHere }) {
  /** What is typed, and what was there when that began; null while nothing is. */
  const [typed, setTyped] = useState<{ readonly breaks: readonly Break[]; readonly were: readonly Break[] } | null>(
    null,
  );
  const edit = useEdit(here);
  const draft = typed?.breaks ?? here.course.breaks;
  const setDraft = (breaks: readonly Break[]) => setTyped({ breaks, were: typed?.were ?? here.course.breaks });
  const save = async () => {
    const named = ({ from, to, name }: Break) => ({ from, to, ...(name ? { name } : {}) });
    const breaksSeen = edit.collided ? here.course.breaks.map(named) : undefined;
    if (await edit.save({ breaks: draft.map(named), breaksWere: typed!.were.map(named), breaksSeen })) setTyped(null);
  };
  const set = (i: number, part: Partial<Break>) => {
    edit.clear();
    setDraft(draft.map((b, n) => (n === i ? { ...b, ...part } : b)));
  };
  const dirty = JSON.stringify(draft) !== JSON.stringify(here.course.breaks);
  const silences = newSilences(here, { breaks: draft });
  const [isSilent, setSilent] = useState(false);
  const problem = (i: number) => edit.problems.find((p) => p.path.startsWith(`breaks[${i}]`))?.message;
  return (
    <section aria-label="Breaks" className="grid gap-3 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Breaks</h2>
      <p className="text-[14px] text-ink-2">
        Days off do not count as absence. You can also{' '}
        <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course/data`}>
          bring a calendar file in
        </Link>
        .
      </p>
      <Collisions edit={edit} shown={[]} />
      {draft.map((b, i) => (
        <div key={i} className="grid grid-cols-[1fr_1fr_auto] items-end gap-2 border-b border-line pb-3">
          <div className="col-span-3">
            <Labelled label="Name" problem={problem(i)}>
              {(id) => (
                <input
                  id={id}
                  className="field min-w-0"
                  value={b.name ?? ''}
                  onChange={(e) => set(i, { name: e.target.value })}
                />
              )}
            </Labelled>
          </div>
          <DateField label="First day" value={b.from} onChange={(from) => set(i, { from })} />
          <DateField label="Last day" value={b.to} onChange={(to) => set(i, { to })} />
          <Button
            needs="data.write"
            aria-label={`Remove ${b.name || 'this break'}`}
            onClick={() => setDraft(draft.filter((_, n) => n !== i))}
          >
            Remove
          </Button>
        </div>
      ))}
      <AskSilence silences={silences} yes={isSilent} onYes={setSilent} />
      <div className="flex flex-wrap gap-2">
        <Button
          needs="data.write"
          onClick={() => setDraft([...draft, { name: '', from: here.course.start, to: here.course.start }])}
        >
          Add a break
        </Button>
        {dirty && (
          <Button look="main" busy={edit.busy} disabled={silences.length > 0 && !isSilent} onClick={() => save()}>
            Save breaks
          </Button>
        )}
      </div>
    </section>
  );
}

/** Everything due, by the week of the term in which it is. */
function Weeks({ here }: { readonly here: CourseHere }) {
  const { calendar, items, timeZone } = here.course;
  const first = dayNumberOf(here.course.start);
  const last = dayNumberOf(here.course.end);
  // Weeks begin on Mondays.
  const monday = first - weekdayIndex(first);
  const weeks = Array.from({ length: Math.ceil((last - monday + 1) / 7) }, (_, i) => monday + i * 7);
  const due = items
    .flatMap((item) => (item.dueAt === null ? [] : [{ item, day: calendar.dayNumber(item.dueAt) }]))
    .toSorted((a, b) => a.item.dueAt! - b.item.dueAt!);
  const outside = due.filter((d) => d.day < first || d.day > last);
  const today = calendar.dayNumber(here.now);
  return (
    <section aria-label="Week by week" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Week by week</h2>
      {outside.length > 0 && (
        <p className="mt-1 text-[14px] text-tangerine-text">
          ▲ Due outside the course: {outside.map((d) => d.item.title).join('; ')}
        </p>
      )}
      <ol className="mt-2">
        {weeks.map((start, i) => {
          const inWeek = due.filter((d) => d.day >= Math.max(start, first) && d.day < start + 7 && d.day <= last);
          const breaks = here.course.breaks.filter(
            (b) => dayNumberOf(b.from) < start + 7 && dayNumberOf(b.to) >= start,
          );
          const isNow = today >= start && today < start + 7;
          return (
            <li key={start} className="grid grid-cols-[7.5rem_1fr] gap-3 border-b border-line py-2 last:border-b-0">
              <span className="text-[14px]">
                <strong className={isNow ? 'marked' : ''}>Week {i + 1}</strong>
                <span className="block text-[13px] text-ink-3">
                  from {weekdayDateWords(dateOf(Math.max(start, first)))}
                </span>
              </span>
              <span className="min-w-0">
                {breaks.map((b) => (
                  <span key={b.from} className="block text-[14px] font-semibold text-brass-text">
                    ◇ {b.name || 'Break'}: {weekdayDateWords(b.from)} to {weekdayDateWords(b.to)}
                  </span>
                ))}
                {inWeek.map(({ item }) => (
                  <span key={item.id} className="flex flex-wrap justify-between gap-x-4">
                    <span className="min-w-0 truncate">{item.title}</span>
                    <span className="text-[13.5px] whitespace-nowrap text-ink-2">
                      {weekdayDateWords(dateOf(calendar.dayNumber(item.dueAt!)))}, {timeWords(item.dueAt!, timeZone)}
                    </span>
                  </span>
                ))}
                {inWeek.length === 0 && breaks.length === 0 && (
                  <span className="text-[14px] text-ink-3">Nothing due</span>
                )}
              </span>
            </li>
          );
        })}
      </ol>
    </section>
  );
}
