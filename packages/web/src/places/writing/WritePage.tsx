/** A message by hand to students who were chosen elsewhere. */
import { useNavigate, useSearchParams } from 'react-router';
import { DAY, listWords, plural, numberWords } from '@zest-bell/core/time';
import { nameOf, studentPath, useHere, type CourseHere } from '../../lib/here.ts';
import { Empty } from '../../parts/common/States.tsx';
import { useLookoutLog } from '../../parts/table/useLookout.ts';
import { When } from '../../ui/When.tsx';
import { useChosen } from '../../parts/editing/chosen.ts';
import { WriteDesk } from './WriteDesk.tsx';
import { Page } from '../../ui/Page.tsx';

export function WritePage() {
  const here = useHere();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const kept = useChosen((s) => s.chosen);
  const chosen = params.has('student') || kept?.course !== here.id ? null : kept;
  const students = (chosen?.students ?? params.getAll('student')).filter((id) => here.course.personIndex.has(id));
  const [first] = students;
  if (first === undefined)
    return <Empty title="Nobody to write to">Choose students first: in Students, on Today, or with the search.</Empty>;
  const names = students.slice(0, 3).map((id) => nameOf(here, id));
  const done = () => void navigate(students.length === 1 ? studentPath(here, first) : `/c/${here.id}/log`);
  return (
    <Page
      title={`Write to ${listWords(students.length > 3 ? [...names, plural(students.length - 3, 'more student')] : names)}`}
      lead={chosen && chosen.who !== '' && `Students who ${chosen.who}.`}
    >
      <div className="grid grid-cols-[minmax(0,1fr)] gap-4">
        <HeardLately here={here} students={students} />
        <WriteDesk
          here={here}
          columns={[]}
          addresses={[]}
          storeAs={`students ${students.join(' ')}`}
          to={{ sheet: null, rows: [], students }}
          subject={chosen?.subject ?? ''}
          about={chosen?.about ?? ''}
          onSent={done}
        />
      </div>
    </Page>
  );
}

/** Who of them got a message in the last week, so that nobody gets two without a thought. */
function HeardLately({ here, students }: { readonly here: CourseHere; readonly students: readonly string[] }) {
  const log = useLookoutLog(here, here.now);
  const lately = students.flatMap((student) => {
    const last = log.data?.students[student]?.last;
    return last && last.at > here.now - 7 * DAY ? [{ student, last }] : [];
  });
  if (lately.length === 0) return null;
  return (
    <details className="rounded-xl bg-sheet px-4 py-2 text-[14.5px]">
      <summary className="font-semibold">
        {numberWords(lately.length)} of {plural(students.length, 'student')} got a message from you in the last 7 days
      </summary>
      <ul className="mt-1 max-h-40 overflow-auto">
        {lately.map(({ student, last }) => (
          <li key={student}>
            <strong>{nameOf(here, student)}</strong>: {last.ruleName}, <When at={last.at} zone={here.course.timeZone} />
          </li>
        ))}
      </ul>
    </details>
  );
}
