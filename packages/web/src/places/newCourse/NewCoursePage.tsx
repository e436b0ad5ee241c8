/** A course from nothing: what it is called and when it runs. Everything else can come later, in any order. */
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { contract } from '@zest-bell/core/contract';
import type { Problem } from '@zest-bell/core/problem';
import type { ImportDecisions } from '@zest-bell/core/imports';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { OwnPage } from '../../parts/common/OwnPage.tsx';
import { refreshAll, useCourses, useSession } from '../../lib/queries.ts';
import { useKept } from '../../lib/useKept.ts';
import { ProveAddress } from '../../parts/common/ProveAddress.tsx';
import { Button } from '../../ui/Button.tsx';
import { DateField, Labelled } from '../../ui/fields.tsx';
import { ZoneField } from '../../parts/common/ZoneField.tsx';
import { previewNewCourse, makeFrom, type TypedDetails } from './fromFile.ts';
import { createWords, SheetPart, type NewCourseSheet } from './SheetPart.tsx';

const freshDetails = (): TypedDetails => ({
  title: '',
  code: '',
  timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  start: '',
  end: '',
});

export function NewCoursePage() {
  const navigate = useNavigate();
  const courses = useCourses();
  const { value: draft, set: setDraft, drop } = useKept('new course', freshDetails());
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [said, setSaid] = useState('');
  /** A code helps: the address of the account is not proven yet. */
  const [isUnproven, setUnproven] = useState(false);
  const email = useSession().data?.account?.email;
  const [busy, setBusy] = useState(false);
  const [sheet, setSheet] = useState<NewCourseSheet | null>(null);
  const [trouble, setTrouble] = useState('');
  const [scenarioProblems, setScenarioProblems] = useState<readonly Problem[]>([]);
  const chooser = useRef<HTMLInputElement>(null);
  const [search, setSearch] = useSearchParams();
  const asked = search.get('from') ?? '';
  // Also while one's courses are still being asked for.
  const from = /^\d+$/.test(asked) ? asked : null;
  const set = (part: Partial<TypedDetails>) => {
    setProblems([]);
    setSaid('');
    setDraft((now) => ({ ...now, ...part }));
  };
  useReading(sheet, draft, (answer, why) => {
    setTrouble(why);
    if (!answer) return;
    setSheet((now) => (now === sheet ? { ...now!, answer } : now));
    const { code, title } = answer.proposed;
    // Proposed where nothing was typed.
    if ((draft.code === '' && code !== '') || (draft.title === '' && title !== ''))
      set({ code: draft.code || code, title: draft.title || title });
  });
  const problemOf = (field: string) => problems.find((p) => p.path === `details.${field}`)?.message;
  const begin = async (work: () => Promise<{ id: number }>) => {
    setBusy(true);
    try {
      const { id } = await work();
      drop();
      await refreshAll();
      await navigate(from === null ? `/c/${id}/setup` : `/c/${id}/carry?from=${from}`);
      return null;
    } catch (error) {
      setProblems(error instanceof ApiProblem ? error.problems : []);
      setUnproven(error instanceof ApiProblem && error.code === 'addressNotProven');
      const fields =
        error instanceof ApiProblem &&
        error.problems.length > 0 &&
        error.problems.every((p) => p.path.startsWith('details.'));
      setSaid(fields ? 'Fix the marked fields, then create the course.' : errorWords(error));
      return error;
    } finally {
      setBusy(false);
    }
  };
  const fromScenario = async (file: File) => {
    setScenarioProblems([]);
    const error = await begin(() => ask(contract.course.beginFromScenario, {}, { upload: file }));
    if (!(error instanceof ApiProblem)) return;
    // What is wrong with the file is at the file.
    setSaid('');
    setProblems([]);
    setScenarioProblems(
      error.problems.length > 0 ? error.problems : [{ path: '', code: error.code, message: errorWords(error) }],
    );
  };
  const text = (field: 'title' | 'code', label: string, placeholder: string) => (
    <Labelled label={label} problem={problemOf(field)}>
      {(id) => (
        <input
          id={id}
          className="field"
          autoComplete="off"
          placeholder={placeholder}
          value={draft[field]}
          aria-invalid={problemOf(field) !== undefined}
          onChange={(e) => set({ [field]: e.target.value })}
        />
      )}
    </Labelled>
  );
  return (
    <OwnPage title="New course">
      <div className={sheet ? '' : 'max-w-[720px]'}>
        <p className="text-ink-2">
          Start with a spreadsheet of your students, or with just a name and dates, and add the rest later. What you
          type here is kept until you finish.
        </p>
        <SheetPart
          sheet={sheet}
          trouble={trouble}
          timeZone={draft.timeZone}
          onFile={(file) => {
            setTrouble('');
            setSheet(file && { file, decisions: {}, answer: null });
          }}
          onDecide={(part: Partial<ImportDecisions>) =>
            setSheet((now) => now && { ...now, decisions: { ...now.decisions, ...part } })
          }
        />
        <form
          noValidate
          className="roomy mt-5 grid gap-x-4 gap-y-1 rounded-[16px] border border-line bg-sheet px-5 py-5"
          onSubmit={(e) => {
            e.preventDefault();
            void begin(() =>
              sheet
                ? makeFrom(sheet.file, draft, sheet.decisions)
                : ask(contract.course.begin, {}, { body: { details: draft } }),
            );
          }}
        >
          {text('title', 'Title', 'Coastal Navigation')}
          <div className="grid gap-x-4 gap-y-1 min-[520px]:grid-cols-2">
            {text('code', 'Code', 'NAV 120')}
            <ZoneField
              value={draft.timeZone}
              problem={problemOf('timeZone')}
              onChange={(timeZone) => set({ timeZone })}
            />
            <DateField
              label="First day"
              value={draft.start}
              problem={problemOf('start')}
              onChange={(start) => set({ start })}
            />
            <DateField label="Last day" value={draft.end} problem={problemOf('end')} onChange={(end) => set({ end })} />
          </div>
          {(courses.data?.length ?? 0) > 0 && (
            <Labelled label="Start from another of your courses">
              {(id) => (
                <select
                  id={id}
                  className="field"
                  value={from ?? ''}
                  onChange={(e) => setSearch(e.target.value === '' ? {} : { from: e.target.value }, { replace: true })}
                >
                  <option value="">No, start from scratch</option>
                  {courses.data!.map((c) => (
                    <option key={c.id} value={c.id}>
                      {c.code} {c.title}
                    </option>
                  ))}
                </select>
              )}
            </Labelled>
          )}
          {said && (
            <p role="alert" className="text-tangerine-text">
              ▲ {said}
            </p>
          )}
          {isUnproven && email && (
            <ProveAddress
              address={email}
              onProven={() => {
                setUnproven(false);
                setSaid('');
              }}
            />
          )}
          <div className="flex flex-wrap items-center gap-3">
            <Button
              look="main"
              type="submit"
              busy={busy}
              disabled={sheet !== null && (trouble !== '' || !isReadSurely(sheet.answer))}
            >
              {createWords(sheet?.answer ?? null)}
            </Button>
            {(courses.data?.length ?? 0) > 0 && (
              <Link className="font-semibold text-pine underline-offset-4 hover:underline" to="/">
                Back to your courses
              </Link>
            )}
          </div>
        </form>
        <section
          aria-label="From a scenario file"
          className="mt-4 flex flex-wrap items-center gap-3 rounded-[16px] border border-line bg-sheet px-5 py-4"
        >
          <p className="min-w-0 flex-1 basis-72">
            <strong className="block">Start from a scenario file</strong>
            <span className="text-[14px] text-ink-2">A whole course in one file, with its rules as drafts.</span>
          </p>
          <input
            ref={chooser}
            type="file"
            accept=".json"
            className="sr-only"
            aria-label="Choose a scenario file"
            tabIndex={-1}
            onChange={(e) => e.target.files?.[0] && void fromScenario(e.target.files[0])}
          />
          <Button busy={busy} onClick={() => chooser.current?.click()}>
            Choose a scenario file
          </Button>
          {scenarioProblems.length > 0 && (
            <ul role="alert" className="grid max-h-56 basis-full gap-0.5 overflow-auto text-[14px] text-tangerine-text">
              {scenarioProblems.map((p, i) => (
                <li key={i} className="break-words">
                  ▲ {p.path !== '' && <code className="font-num">{p.path}: </code>}
                  {p.message}
                </li>
              ))}
            </ul>
          )}
        </section>
      </div>
    </OwnPage>
  );
}

/** Whether a course may be made of a sheet: it was read, and nothing about its header is open. */
const isReadSurely = (answer: NewCourseSheet['answer']): boolean =>
  answer !== null && answer.preview.trouble === null && answer.preview.doubts.length === 0;

/** Reads a sheet anew when something is decided about it, or the days or the zone are others; the latest reading counts. */
function useReading(
  sheet: NewCourseSheet | null,
  details: TypedDetails,
  onRead: (answer: Awaited<ReturnType<typeof previewNewCourse>> | null, trouble: string) => void,
): void {
  const told = useRef(onRead);
  useEffect(() => {
    told.current = onRead;
  });
  const { timeZone, start, end } = details;
  const file = sheet?.file;
  const decisions = JSON.stringify(sheet?.decisions ?? {});
  useEffect(() => {
    if (!file) return;
    let isLatest = true;
    const typed = { title: '', code: '', timeZone, start, end };
    previewNewCourse(file, typed, JSON.parse(decisions) as ImportDecisions).then(
      (answer) => isLatest && told.current(answer, ''),
      (error: unknown) => isLatest && told.current(null, errorWords(error)),
    );
    return () => {
      isLatest = false;
    };
  }, [file, decisions, timeZone, start, end]);
}
