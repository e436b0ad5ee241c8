/** Everybody of the course in one table: found, sorted, edited where they stand, many at once. */
import { useDeferredValue, useMemo, useRef, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { useVirtualizer } from '@tanstack/react-virtual';
import { dayWords, plural, numberWords } from '@zest-bell/core/time';
import { fullName, type Person, type PersonEdit } from '@zest-bell/core/course';
import { peopleTable } from '@zest-bell/core/exports';
import { studentPath, useHere, type CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { PauseDialog } from '../../parts/editing/PauseDialog.tsx';
import { Empty } from '../../parts/common/States.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { CourseTabPage } from './CourseTabPage.tsx';
import { PasteDialog } from '../../parts/files/PasteDialog.tsx';
import { PersonDialog } from './PersonDialog.tsx';
import { useEdit, type EditState } from '../../parts/editing/useEdit.ts';

const ROW = 46;

interface PeopleColumn {
  readonly key: string;
  readonly name: string;
  readonly width: number;
  readonly value: (p: Person) => string | number;
  /** As it is shown, where that is another text. */
  readonly show?: (p: Person) => string;
  /** The field that is edited in its place. */
  readonly field?: 'section' | 'email';
}

function columnsOf(here: CourseHere): PeopleColumn[] {
  const zone = here.course.timeZone;
  const own = [...new Set(here.course.people.flatMap((p) => Object.keys(p.fields)))].slice(0, 20);
  const kinds = [...new Set(here.course.people.flatMap((p) => p.contacts.map((c) => c.kind)))].slice(0, 6);
  const columns: PeopleColumn[] = [
    { key: 'name', name: 'Name', width: 210, value: (p) => `${p.lastName} ${p.firstName}` },
    { key: 'role', name: 'Role', width: 100, value: (p) => p.role },
    { key: 'section', name: 'Section', width: 110, value: (p) => p.section ?? '', field: 'section' },
    { key: 'email', name: 'Email address', width: 270, value: (p) => p.email ?? '', field: 'email' },
    {
      key: 'enrolled',
      name: 'Enrolled',
      width: 120,
      value: (p) => p.enrolledAt,
      show: (p) => dayWords(p.enrolledAt, zone),
    },
  ];
  for (const kind of kinds) {
    const namesOf = (p: Person) => p.contacts.filter((c) => c.kind === kind).map((c) => c.name || c.email);
    const name = kind.charAt(0).toUpperCase() + kind.slice(1);
    columns.push({ key: `contact ${kind}`, name, width: 190, value: (p) => namesOf(p).join(', ') });
  }
  for (const name of own) columns.push({ key: `own ${name}`, name, width: 130, value: (p) => p.fields[name] ?? '' });
  return columns;
}

export function PeoplePage() {
  const here = useHere();
  const [params] = useSearchParams();
  const [search, setSearch] = useState('');
  const [sort, setSort] = useState<{ readonly key: string; readonly down: boolean }>({ key: 'name', down: false });
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [open, setOpen] = useState<Person | 'new' | null>(null);
  const [pasting, setPasting] = useState(false);
  const [gone, setGone] = useState(params.get('show') === 'inactive');
  const edit = useEdit(here);
  const wanted = useDeferredValue(search.trim().toLowerCase());
  const columns = useMemo(() => columnsOf(here), [here]);
  const people = useMemo(() => {
    const by = columns.find((c) => c.key === sort.key) ?? columns[0]!;
    return here.course.people
      .filter(
        (p) =>
          (gone || p.active) &&
          (wanted === '' ||
            `${fullName(p)} ${p.id} ${p.email ?? ''} ${p.section ?? ''}`.toLowerCase().includes(wanted)),
      )
      .toSorted((a, b) => {
        const [x, y] = [by.value(a), by.value(b)];
        const order =
          typeof x === 'number' && typeof y === 'number'
            ? x - y
            : String(x).localeCompare(String(y), 'en', { numeric: true });
        return sort.down ? -order : order;
      });
  }, [here, columns, sort, wanted, gone]);
  const [pausing, setPausing] = useState(false);
  const inactive = here.course.people.filter((p) => !p.active).length;
  const forAll = async (set: Partial<PersonEdit>) => {
    if (await edit.save({ people: [...chosen].map((id) => ({ id, set })) })) setChosen(new Set());
  };
  return (
    <CourseTabPage
      here={here}
      tab="/people"
      fills
      actions={
        <>
          <Button needs="data.write" onClick={() => setPasting(true)}>
            Paste rows
          </Button>
          <Button needs="data.write" look="main" onClick={() => setOpen('new')}>
            Add a person
          </Button>
          <ExportMenu what={plural(people.length, 'person', 'people')} table={() => peopleTable(here.course, people)} />
        </>
      }
      filters={
        <>
          <input
            type="search"
            aria-label="Search people"
            placeholder="Search names, ids and addresses"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            className="field w-72"
          />
          <p role="status" className="text-[14px] text-ink-2">
            {numberWords(people.length)} of {plural(here.course.people.length, 'person', 'people')}
          </p>
          {inactive > 0 && (
            <label className="flex items-center gap-2 text-[14px]">
              <input
                type="checkbox"
                className="size-4 accent-(--pine)"
                checked={gone}
                onChange={(e) => setGone(e.target.checked)}
              />
              Show {plural(inactive, 'inactive person', 'inactive people')}
            </label>
          )}
          {chosen.size > 0 && (
            <span className="ml-auto flex flex-wrap items-center gap-2">
              <strong className="text-[14px]">{plural(chosen.size, 'person', 'people')} chosen</strong>
              <Button needs="data.write" busy={edit.busy} onClick={() => forAll({ active: false })}>
                Make inactive
              </Button>
              <Button needs="data.write" busy={edit.busy} onClick={() => forAll({ active: true })}>
                Make active
              </Button>
              <Button needs="data.write" onClick={() => setPausing(true)}>
                Pause nudges …
              </Button>
              <Button needs="data.write" busy={edit.busy} onClick={() => forAll({ paused: false })}>
                Resume nudges
              </Button>
            </span>
          )}
        </>
      }
    >
      {pausing && (
        <PauseDialog
          here={here}
          students={[...chosen]}
          onPaused={() => setChosen(new Set())}
          onClose={() => setPausing(false)}
        />
      )}
      {here.course.people.length === 0 ? (
        <Empty title="No people yet">
          Students, instructors and contacts belong here.{' '}
          <Link className="font-semibold text-pine underline" to={`/c/${here.id}/course/data`}>
            Bring a roster in
          </Link>
          , or paste rows from a spreadsheet.
        </Empty>
      ) : (
        <Table
          here={here}
          people={people}
          columns={columns}
          sort={sort}
          onSort={(key) => setSort((s) => ({ key, down: s.key === key && !s.down }))}
          chosen={chosen}
          onChosen={setChosen}
          edit={edit}
          onOpen={setOpen}
        />
      )}
      {open && <PersonDialog here={here} person={open === 'new' ? null : open} onClose={() => setOpen(null)} />}
      {pasting && <PasteDialog here={here} kind="roster" onClose={() => setPasting(false)} />}
    </CourseTabPage>
  );
}

function Table(props: {
  readonly here: CourseHere;
  readonly people: readonly Person[];
  readonly columns: readonly PeopleColumn[];
  readonly sort: { readonly key: string; readonly down: boolean };
  readonly onSort: (key: string) => void;
  readonly chosen: ReadonlySet<string>;
  readonly onChosen: (chosen: ReadonlySet<string>) => void;
  readonly edit: EditState;
  readonly onOpen: (person: Person) => void;
}) {
  const { people, columns, chosen } = props;
  const frame = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const list = useVirtualizer({
    count: people.length,
    getScrollElement: () => frame.current,
    estimateSize: () => ROW,
    overscan: 10,
  });
  const width = 48 + columns.reduce((sum, c) => sum + c.width, 0) + 90;
  const grid = { gridTemplateColumns: `48px ${columns.map((c) => `${c.width}px`).join(' ')} minmax(90px, 1fr)` };
  const all = people.length > 0 && people.every((p) => chosen.has(p.id));
  const toggle = (id: string) => {
    const next = new Set(chosen);
    if (!next.delete(id)) next.add(id);
    props.onChosen(next);
  };
  return (
    <div
      ref={frame}
      tabIndex={0}
      role="table"
      aria-label="People"
      aria-rowcount={people.length + 1}
      className="pane rounded-[16px] border border-line bg-sheet"
    >
      <div style={{ minWidth: width }}>
        <div
          role="row"
          aria-rowindex={1}
          className="sticky top-0 z-10 grid items-center border-b border-line-strong bg-sheet text-[13px] font-semibold text-ink-2"
          style={grid}
        >
          <span role="columnheader" className="px-4 py-2.5">
            <input
              type="checkbox"
              aria-label="Choose all people shown"
              className="size-4 accent-(--pine)"
              checked={all}
              onChange={() => props.onChosen(all ? new Set() : new Set(people.map((p) => p.id)))}
            />
          </span>
          {columns.map((c) => (
            <span
              key={c.key}
              role="columnheader"
              aria-sort={props.sort.key === c.key ? (props.sort.down ? 'descending' : 'ascending') : 'none'}
            >
              <button
                className="w-full truncate px-2 py-2.5 text-left hover:text-ink"
                onClick={() => props.onSort(c.key)}
              >
                {c.name}
                <span aria-hidden> {props.sort.key === c.key ? (props.sort.down ? '↓' : '↑') : ''}</span>
              </button>
            </span>
          ))}
          <span role="columnheader" className="px-2">
            State
          </span>
        </div>
        <div role="rowgroup" style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((row) => {
            const person = people[row.index]!;
            return (
              <div
                key={person.id}
                role="row"
                aria-rowindex={row.index + 2}
                className={`absolute inset-x-0 grid items-center border-b border-line text-[14.5px] hover:bg-fog ${person.active ? '' : 'text-ink-3'}`}
                style={{ ...grid, top: row.start, height: ROW }}
              >
                <span role="cell" className="px-4">
                  <input
                    type="checkbox"
                    aria-label={`Choose ${fullName(person)}`}
                    className="size-4 accent-(--pine)"
                    checked={chosen.has(person.id)}
                    onChange={() => toggle(person.id)}
                  />
                </span>
                {columns.map((c) => (
                  <span key={c.key} role="cell" className="min-w-0 px-2">
                    {c.key === 'name' ? (
                      <button
                        className="max-w-full truncate text-left font-semibold hover:underline"
                        onClick={() => props.onOpen(person)}
                      >
                        {fullName(person)}
                      </button>
                    ) : c.field ? (
                      <InPlace
                        label={`${c.name} of ${fullName(person)}`}
                        value={String(c.value(person))}
                        onSave={(value) => props.edit.save({ people: [{ id: person.id, set: { [c.field!]: value } }] })}
                      />
                    ) : (
                      <span className="block truncate" title={String(c.show?.(person) ?? c.value(person))}>
                        {c.show?.(person) ?? c.value(person)}
                      </span>
                    )}
                  </span>
                ))}
                <span role="cell" className="flex items-center gap-1.5 px-2">
                  {!person.active && <Chip tone="quiet">inactive</Chip>}
                  {person.paused && <Chip tone="iris">paused</Chip>}
                  {person.role === 'student' && person.active && !person.email && (
                    <Chip tone="tangerine">no address</Chip>
                  )}
                  {person.role === 'student' && person.active && !person.paused && person.email && (
                    <Link
                      className="text-[13px] text-pine hover:underline"
                      to={studentPath(props.here, person.id)}
                      aria-label={`Open ${fullName(person)}`}
                    >
                      open
                    </Link>
                  )}
                </span>
              </div>
            );
          })}
        </div>
        {people.length === 0 && <p className="p-6 text-ink-2">No matches.</p>}
      </div>
    </div>
  );
}

/** A cell that becomes a field when it is pressed; Enter saves, Escape leaves it as it was. */
function InPlace(props: {
  readonly label: string;
  readonly value: string;
  readonly onSave: (value: string) => Promise<boolean>;
}) {
  const [text, setText] = useState<string | null>(null);
  if (text === null) {
    return (
      <button
        aria-label={`${props.label}: ${props.value || 'none'}. Edit`}
        title="Edit"
        className="block h-8 w-full truncate rounded px-1 text-left hover:bg-sheet hover:outline hover:outline-line-strong"
        onClick={() => setText(props.value)}
      >
        {props.value || <span className="text-ink-3">–</span>}
      </button>
    );
  }
  const done = async () => {
    if (text.trim() === props.value || (await props.onSave(text))) setText(null);
  };
  return (
    <input
      autoFocus
      aria-label={props.label}
      className="field h-8 min-h-0 w-full px-1.5 py-0"
      value={text}
      onChange={(e) => setText(e.target.value)}
      onKeyDown={(e) => {
        if (e.key === 'Enter') void done();
        if (e.key === 'Escape') setText(null);
      }}
      onBlur={() => void done()}
    />
  );
}
