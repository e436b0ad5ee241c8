/** Feeding the course from a OneRoster service: an administrator's alone, as its addresses are called from this server. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { ProposedClass } from '@zest-bell/core/connections';
import { plural } from '@zest-bell/core/time';
import { ask } from '../../../lib/api.ts';
import { useAsking } from '../../../lib/useAsking.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { refreshAll } from '../../../lib/queries.ts';
import { ServiceFields, useTypedService } from '../../../parts/connections/ServiceFields.tsx';
import { Button } from '../../../ui/Button.tsx';
import { Labelled } from '../../../ui/fields.tsx';
import { useKept } from '../../../lib/useKept.ts';

export function AddOneRoster({ here }: { readonly here: CourseHere }) {
  const { typed, setTyped, dropTyped } = useTypedService(`of course ${here.id}`);
  const { value: ofClass, set: setOfClass, drop: dropClass } = useKept(`class of course ${here.id}`, '');
  const [classes, setClasses] = useState<readonly ProposedClass[]>([]);
  const { busy, problemAt, run } = useAsking();
  const lookUp = () =>
    run(async () => {
      const { classes: found } = await ask(contract.connections.classes, {}, { body: typed });
      setClasses(found);
      const proposed = found.find((c) => c.course === here.id);
      if (proposed) setOfClass(proposed.id);
      toast(
        proposed
          ? `Found ${plural(found.length, 'class', 'classes')}. “${proposed.title || proposed.id}” fits this course.`
          : `Found ${plural(found.length, 'class', 'classes')}. Choose the one that this course is.`,
      );
    });
  const add = () =>
    run(async () => {
      await ask(contract.connections.addOneRoster, {}, { body: { ...typed, class: ofClass, course: here.id } });
      dropTyped();
      dropClass();
      setClasses([]);
      toast('Connected. Ask it now, or wait an hour for the first time.');
      await refreshAll();
    });
  return (
    <section
      aria-label="Connect a OneRoster service"
      className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4"
    >
      <h2 className="text-[18px] font-bold">Connect a OneRoster service</h2>
      <p className="mt-1 max-w-[75ch] text-[15px] text-ink-2">
        For administrators. Zest Bell asks for the class, its people, line items and results every hour, and writes
        nothing back. It stores the secret encrypted and never shows it.
      </p>
      <div className="mt-2 grid gap-3 min-[760px]:grid-cols-2">
        <ServiceFields typed={typed} onChange={setTyped} problemAt={problemAt} />
        <Labelled label="The class, by its sourcedId" problem={problemAt('class')}>
          {(id) =>
            classes.length === 0 ? (
              <input
                id={id}
                className="field w-full"
                autoComplete="off"
                value={ofClass}
                onChange={(e) => setOfClass(e.target.value)}
              />
            ) : (
              <select id={id} className="field w-full" value={ofClass} onChange={(e) => setOfClass(e.target.value)}>
                <option value="">Choose a class</option>
                {classes.map((c) => (
                  <option key={c.id} value={c.id}>
                    {classWords(c)}
                  </option>
                ))}
              </select>
            )
          }
        </Labelled>
      </div>
      <p className="mt-3 flex flex-wrap gap-3">
        <Button busy={busy} onClick={() => lookUp()}>
          Look up its classes
        </Button>
        <Button look="main" busy={busy} onClick={() => add()}>
          Connect it
        </Button>
      </p>
    </section>
  );
}

const classWords = ({ code, title, id }: ProposedClass): string =>
  [code, title].filter((t) => t !== '').join(' ') === '' ? id : `${[code, title].filter(Boolean).join(' ')} (${id})`;
