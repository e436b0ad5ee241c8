import { contract } from '@zest-bell/core/contract';
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { ask, ApiProblem } from '../../lib/api.ts';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled } from '../../ui/fields.tsx';

/** An address for a student who cannot be reached. The next round writes to it. */
export function AddressDialog(props: {
  readonly here: CourseHere;
  readonly student: string;
  readonly onClose: () => void;
}) {
  const { here, student } = props;
  const person = here.course.people[here.course.personIndex.get(student) ?? -1];
  const [email, setEmail] = useState(person?.email ?? '');
  const [problem, setProblem] = useState<string | undefined>();
  const [busy, setBusy] = useState(false);
  const name = nameOf(here, student);
  const save = async (e: FormEvent) => {
    e.preventDefault();
    setBusy(true);
    try {
      await ask(contract.intake.address, { course: here.id, student }, { body: { email } });
      await refreshAll();
      toast(`${name} can be reached at ${email.trim()} from now on.`);
      props.onClose();
    } catch (error) {
      const said = error instanceof ApiProblem ? error.problems[0]?.message : undefined;
      setProblem(said ?? (error instanceof Error ? error.message : 'The address could not be saved. Try again.'));
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog open onClose={props.onClose} title={`Email address of ${name}`}>
      <form onSubmit={(e) => void save(e)} className="grid gap-4 px-6 py-5" noValidate>
        <Labelled label="Email address" problem={problem}>
          {(id) => (
            <input
              id={id}
              type="email"
              autoFocus
              autoComplete="off"
              className="field"
              value={email}
              aria-invalid={problem !== undefined}
              onChange={(e) => {
                setEmail(e.target.value);
                setProblem(undefined);
              }}
            />
          )}
        </Labelled>
        <p className="text-[14px] text-ink-2">Each rule that this student matches writes to it at its next check.</p>
        <div>
          <Button look="main" type="submit" busy={busy}>
            Save address
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
