/** What is kept of a student: everything as a file, and erasing it on request. For owners. */
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { fullName, type Person } from '@zest-bell/core/course';
import { contract } from '@zest-bell/core/contract';
import { ask, linkTo } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { useConfirmed } from '../../parts/common/useConfirmed.tsx';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled } from '../../ui/fields.tsx';

export function KeptPart({ here, person }: { readonly here: CourseHere; readonly person: Person }) {
  const [asking, setAsking] = useState(false);
  if (!here.may('data.erase')) return null;
  return (
    <section aria-label="Student data" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Data about {fullName(person)}</h2>
      <p className="text-[14px] text-ink-2">
        A student may ask for all of their data, and may ask you to erase it. Both are recorded under “Who did what”.
      </p>
      <p className="mt-3 flex flex-wrap gap-3">
        <Link
          className="inline-flex min-h-9 items-center rounded-[11px] border border-line-strong px-4 text-[15px] font-semibold"
          to={`/c/${here.id}/students/${encodeURIComponent(person.id)}/data`}
        >
          Read or print everything
        </Link>
        <a
          className="inline-flex min-h-9 items-center rounded-[11px] border border-line-strong px-4 text-[15px] font-semibold"
          href={linkTo(contract.erasure.data, { course: here.id, student: person.id })}
          download
        >
          Save everything as a file
        </a>
        <Button onClick={() => setAsking(true)}>Erase …</Button>
      </p>
      {asking && <EraseDialog here={here} person={person} onClose={() => setAsking(false)} />}
    </section>
  );
}

function EraseDialog(props: { readonly here: CourseHere; readonly person: Person; readonly onClose: () => void }) {
  const { here, person, onClose } = props;
  const navigate = useNavigate();
  const [typed, setTyped] = useState('');
  const { confirmed, dialog } = useConfirmed();
  const erase = () =>
    confirmed(async () => {
      const path = { course: here.id, student: person.id };
      const { backups } = await ask(contract.erasure.erase, path, { body: { student: typed.trim() } });
      await navigate(`/c/${here.id}/course/access`);
      await refreshAll();
      toast(
        backups.length === 0
          ? `${fullName(person)} is erased.`
          : `${fullName(person)} is erased. Older backups still hold their data:  ${backups.join(', ')}.`,
      );
    });
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Erase ${fullName(person)}?`}
      foot={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={typed.trim() !== person.id} onClick={() => erase()}>
            Erase for good
          </Button>
        </>
      }
    >
      <div className="grid gap-3 p-6">
        <p>
          Zest Bell removes their name, addresses, activity, grades, messages, replies, and notes. Nothing that is
          waiting for them is sent. The Send log keeps a line without a name, so that counts stay true. Zest Bell also
          removes files that you brought in and have not taken yet, and workbooks from the course’s folder, because they
          may name the student. Rules, texts, titles, and other students’ notes say “a student” instead of the name.
          Messages to other students stay as they were sent, and attachments are not searched. This cannot be undone.
        </p>
        <p>No file or platform can bring them back until you allow it, under Access.</p>
        <Labelled label={`Type their id to continue: ${person.id}`}>
          {(id) => (
            <input
              id={id}
              className="field font-num"
              autoComplete="off"
              value={typed}
              onChange={(e) => setTyped(e.target.value)}
            />
          )}
        </Labelled>
      </div>
      {dialog}
    </Dialog>
  );
}
