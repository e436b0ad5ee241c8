/** Lookout: every student in one table; brushing its headers writes the condition above it as a sentence. */
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { isActiveStudent } from '@zest-bell/core/course';
import { columnKey, columnTitle, SORT_BY_RULES, type LookoutView } from '@zest-bell/core/lookout';
import { useHere } from '../../lib/here.ts';
import { useAsOf } from '../../lib/termMoment.ts';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { LastSeenNote } from '../../parts/common/LastSeenNote.tsx';
import { AsOfNote } from './AsOfNote.tsx';
import { ChosenBar } from './ChosenBar.tsx';
import { ColumnsMenu } from './ColumnsMenu.tsx';
import { deskOf, useDesks } from '../../parts/table/desk.ts';
import { FilterSentence } from '../../parts/table/FilterSentence.tsx';
import { LookoutTableView } from './LookoutTableView.tsx';
import { useMedia } from '../../ui/useMedia.ts';
import { StudentCards } from './StudentCards.tsx';
import { StudentsPage } from './StudentsPage.tsx';
import { useRuleNames } from '../../parts/table/ruleNames.ts';
import { useLookout } from '../../parts/table/useLookout.ts';
import { useViews, ViewsMenu } from './ViewsMenu.tsx';

export function LookoutPage() {
  const here = useHere();
  const kept = useDesks((s) => s.desks[here.id]);
  const set = useDesks((s) => s.set);
  const desk = useMemo(() => deskOf(kept, here.course), [kept, here.course]);
  const { view } = desk;
  const isPhone = useMedia('(max-width: 559px)');
  const [params, setParams] = useSearchParams();
  const [search, setSearch] = useState('');
  const sentence = useRef<HTMLDivElement>(null);
  /** The sentence's height while the pointer is over the table, in pixels: the table stays where it is. */
  const [heldAt, setHeldAt] = useState<number | null>(null);
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const at = useAsOf(here);
  const names = useRuleNames(here);
  const lookout = useLookout(here, view, useDeferredValue(search), at);
  const change = (part: Partial<LookoutView>) => set(here.id, { ...desk, view: { ...view, ...part } });

  // A link to a saved view opens it, once.
  const wanted = params.get('view');
  const views = useViews(here);
  const linked = views.data?.find((v) => String(v.id) === wanted)?.view;
  const opened = useRef<string | null>(null);
  useEffect(() => {
    if (!linked || opened.current === wanted) return;
    opened.current = wanted;
    set(here.id, { ...desk, view: linked });
  }, [linked, wanted, desk, here.id, set]);

  const students = here.course.people.filter(isActiveStudent).length;
  if (students === 0) {
    return (
      <Empty title="No students yet">
        Every student of the course belongs here.{' '}
        <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course/data`}>
          Bring a roster in
        </Link>
        .
      </Empty>
    );
  }
  if (lookout.error)
    return (
      <StudentsPage here={here} tab="">
        <Failed error={lookout.error} />
      </StudentsPage>
    );
  const { table, shown } = lookout;
  // Ticks on students who are not shown right now are kept, and take nothing from those who are.
  const rows = shown ? Array.from(shown.rows) : [];
  const tickedRows = rows.filter((row) => ticked.has(table?.students[row] ?? ''));
  const meant = tickedRows.length > 0 ? tickedRows : rows;
  const Listing = isPhone ? StudentCards : LookoutTableView;
  const sortWords = view.sort
    .flatMap(({ by }) =>
      by === 'name'
        ? ['name']
        : by === SORT_BY_RULES
          ? ['how many rules match']
          : view.columns.filter((c) => columnKey(c) === by).map((c) => columnTitle(c, here.course, names)),
    )
    .join(', then ');
  return (
    <StudentsPage
      here={here}
      tab=""
      fills
      lead={sortWords === '' ? '' : `Sorted by ${sortWords}`}
      actions={
        <>
          <ColumnsMenu
            here={here}
            view={view}
            activity={desk.activity}
            onActivity={(activity, part) => set(here.id, { ...desk, activity, view: { ...view, ...part } })}
            onChange={change}
          />
          <ViewsMenu
            here={here}
            view={view}
            onOpen={(saved) => {
              opened.current = String(saved.id);
              setParams({ view: String(saved.id) });
              if (saved.view) set(here.id, { ...desk, view: saved.view });
            }}
          />
        </>
      }
      filters={
        // One line from the beginning; what is longer grows once the pointer has left the table.
        <div
          ref={sentence}
          className="min-h-9 min-w-0 flex-1 basis-96 content-center"
          style={heldAt === null ? undefined : { height: heldAt, overflowY: 'auto' }}
        >
          <FilterSentence here={here} view={view} onChange={change} />
        </div>
      }
    >
      <AsOfNote here={here} />
      <LastSeenNote here={here} />
      {table && shown ? (
        <>
          <div
            className="contents"
            onPointerEnter={() => setHeldAt(sentence.current?.offsetHeight ?? null)}
            onPointerLeave={() => setHeldAt(null)}
          >
            <Listing
              here={here}
              view={view}
              activity={desk.activity}
              at={at}
              lookout={lookout}
              ticked={ticked}
              onTicked={setTicked}
              search={search}
              onSearch={setSearch}
              onChange={change}
            />
          </div>
          <ChosenBar
            here={here}
            view={view}
            lookout={lookout}
            of={students}
            rows={meant}
            ticked={tickedRows.length > 0}
            hidden={ticked.size - tickedRows.length}
            onUntick={() => setTicked(new Set())}
          />
        </>
      ) : (
        <Loading what="the students" />
      )}
    </StudentsPage>
  );
}
