/** A course from nothing: what it is called and when it runs. Everything else can come later, in any order. */
import { useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Problem } from '@zest-bell/core';
import { api, ApiProblem, errorWords } from '../app/api.ts';
import { Brand } from '../app/Brand.tsx';
import { refreshAll, useCourses } from '../app/queries.ts';
import { Button } from '../ui/Button.tsx';
import { DateField, Labelled } from '../ui/fields.tsx';
import { ZoneField } from '../ui/ZoneField.tsx';

interface NewCourse {
  readonly title: string;
  readonly code: string;
  readonly timeZone: string;
  readonly start: string;
  readonly end: string;
}

const KEY = 'zest-bell-new-course';

/** What was typed before the page was left; it waits in this browser until the course is there. */
function before(): NewCourse {
  const fresh = { title: '', code: '', timeZone: Intl.DateTimeFormat().resolvedOptions().timeZone, start: '', end: '' };
  try {
    return { ...fresh, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<NewCourse>) };
  } catch {
    return fresh;
  }
}

export function NewCoursePage() {
  const navigate = useNavigate();
  const courses = useCourses();
  const [draft, setDraft] = useState(before);
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [said, setSaid] = useState('');
  const [busy, setBusy] = useState(false);
  const chooser = useRef<HTMLInputElement>(null);
  const set = (part: Partial<NewCourse>) => {
    const next = { ...draft, ...part };
    localStorage.setItem(KEY, JSON.stringify(next));
    setProblems([]);
    setSaid('');
    setDraft(next);
  };
  const problemOf = (field: string) => problems.find((p) => p.path === `details.${field}`)?.message;
  const begin = async (work: () => Promise<{ id: number }>) => {
    setBusy(true);
    try {
      const { id } = await work();
      localStorage.removeItem(KEY);
      await refreshAll();
      await navigate(`/c/${id}/setup`);
    } catch (error) {
      setProblems(error instanceof ApiProblem ? error.problems : []);
      const fields =
        error instanceof ApiProblem &&
        error.problems.length > 0 &&
        error.problems.every((p) => p.path.startsWith('details.'));
      setSaid(fields ? 'Fix the marked fields, then create the course.' : errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  const fromFile = (file: File) => begin(() => api.upload<{ id: number }>('/courses/scenario', file));
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
    <main className="mx-auto w-full max-w-[720px] px-5 py-8">
      <Brand />
      <h1 className="mt-6 text-[30px] leading-tight font-bold">New course</h1>
      <p className="mt-1 text-ink-2">
        Name the course and its days. Then you bring in people, items and grades, in any order, and try a first rule
        without sending anything. What you type here stays until you finish.
      </p>
      <form
        noValidate
        className="mt-5 grid gap-4 rounded-[16px] border border-line bg-sheet px-5 py-5"
        onSubmit={(e) => {
          e.preventDefault();
          void begin(() => api.post<{ id: number }>('/courses', { details: draft }));
        }}
      >
        {text('title', 'Title', 'Coastal Navigation')}
        <div className="grid gap-4 min-[520px]:grid-cols-2">
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
        {said && (
          <p role="alert" className="text-tangerine-text">
            ▲ {said}
          </p>
        )}
        <div className="flex flex-wrap items-center gap-3">
          <Button look="main" type="submit" busy={busy}>
            Create course
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
          onChange={(e) => e.target.files?.[0] && void fromFile(e.target.files[0])}
        />
        <Button busy={busy} onClick={() => chooser.current?.click()}>
          Choose a scenario file
        </Button>
      </section>
    </main>
  );
}
