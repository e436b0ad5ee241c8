/** A message by hand to students who were chosen elsewhere. */
import { useNavigate, useSearchParams } from 'react-router';
import { plural } from '@zest-bell/core';
import { nameOf, studentPath, useHere } from '../app/here.ts';
import { Empty } from '../ui/States.tsx';
import { useChosen } from './chosen.ts';
import { WriteDesk } from './WriteDesk.tsx';

export function WritePage() {
  const here = useHere();
  const navigate = useNavigate();
  const [params] = useSearchParams();
  const kept = useChosen((s) => s.chosen);
  const chosen = params.has('student') || kept?.course !== here.id ? null : kept;
  const students = (chosen?.students ?? params.getAll('student')).filter((id) => here.course.personIndex.has(id));
  const [first] = students;
  if (first === undefined)
    return <Empty title="Nobody to write to">Choose students first: in Lookout, on Today, or with the search.</Empty>;
  const names = students.slice(0, 3).map((id) => nameOf(here, id));
  const done = () => void navigate(students.length === 1 ? studentPath(here, first) : `/c/${here.id}/log`);
  return (
    <div className="mx-auto grid w-full max-w-[1240px] gap-4 px-5 py-6">
      <h1 className="text-[28px] leading-tight font-bold">
        Write to {names.join(', ')}
        {students.length > 3 && ` and ${plural(students.length - 3, 'more student')}`}
      </h1>
      {chosen && chosen.who !== '' && <p className="-mt-2 text-ink-2">Students who {chosen.who}.</p>}
      <WriteDesk
        here={here}
        columns={[]}
        addresses={[]}
        storeAs={`students ${students.join(' ')}`}
        to={{ sheet: null, rows: [], students }}
        subject={chosen?.subject ?? ''}
        onSent={done}
      />
    </div>
  );
}
