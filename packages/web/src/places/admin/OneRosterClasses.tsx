/** A student information system of the whole institution: which of its classes is which course, proposed by code and title. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { ClassesAnswer, ProposedClass } from '@zest-bell/core/connections';
import { plural } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import { useAsking } from '../../lib/useAsking.ts';
import { ServiceFields, useTypedService } from '../../parts/connections/ServiceFields.tsx';
import { Button } from '../../ui/Button.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';

/** Rows that are shown at first. */
const SHOWN = 100;

export function OneRosterClasses({ className }: { readonly className: string }) {
  const { typed, setTyped, dropTyped } = useTypedService('of all courses');
  const [{ classes, courses }, setFound] = useState<ClassesAnswer>({ classes: [], courses: [] });
  /** The course of a class, where somebody decided otherwise than was proposed. */
  const [chosen, setChosen] = useState<ReadonlyMap<string, number | null>>(new Map());
  const [all, setAll] = useState(false);
  const { busy, problemAt, run } = useAsking();
  const courseOf = ({ id, course }: ProposedClass) => (chosen.has(id) ? chosen.get(id)! : course);
  const fitting = classes.filter((c) => courseOf(c) !== null);
  const lookUp = () =>
    run(async () => {
      const found = await ask(contract.connections.classes, {}, { body: typed });
      setChosen(new Map());
      setFound(found);
      toast(`Found ${plural(found.classes.length, 'class', 'classes')}.`);
    });
  const connect = () =>
    run(async () => {
      for (const c of fitting) {
        await ask(contract.connections.addOneRoster, {}, { body: { ...typed, class: c.id, course: courseOf(c)! } });
        // What is connected is not connected again where a later one is refused.
        setFound((before) => ({ ...before, classes: before.classes.filter((other) => other.id !== c.id) }));
      }
      // What is left may be connected by the same service.
      if (fitting.length === classes.length) dropTyped();
      toast(`Connected ${plural(fitting.length, 'course')}. Zest Bell asks each one within the hour.`);
    });
  return (
    <section aria-label="Student information system" className={className}>
      <h2 className="text-[18px] font-bold">Student information system</h2>
      <p className="mt-1 max-w-[75ch] text-[14px] text-ink-2">
        Feed several courses from one OneRoster service. Zest Bell looks up its classes and proposes which course each
        of them is, by code and title.
      </p>
      <div className="mt-2 grid gap-3 min-[760px]:grid-cols-2">
        <ServiceFields typed={typed} onChange={setTyped} problemAt={problemAt} />
      </div>
      <p className="mt-3">
        <Button busy={busy} onClick={() => lookUp()}>
          Look up its classes
        </Button>
      </p>
      {classes.length > 0 && (
        <div className="mt-3">
          <PlainTable
            label="Classes of the service"
            columns={[{ name: 'Class' }, { name: 'Code' }, { name: 'Course' }]}
            rows={classes.slice(0, all ? undefined : SHOWN).map((c) => ({
              key: c.id,
              head: c.title || c.id,
              cells: [
                c.code,
                <select
                  key="course"
                  aria-label={`The course that ${c.title || c.id} is`}
                  className="field"
                  value={courseOf(c) ?? ''}
                  onChange={(e) =>
                    setChosen(new Map([...chosen, [c.id, e.target.value === '' ? null : Number(e.target.value)]]))
                  }
                >
                  <option value="">None</option>
                  {courses.map((course) => (
                    <option key={course.id} value={course.id}>
                      {course.code} {course.title}
                    </option>
                  ))}
                </select>,
              ],
            }))}
          />
          {classes.length > SHOWN && !all && (
            <Button look="quiet" onClick={() => setAll(true)}>
              Show all {classes.length} classes
            </Button>
          )}
          <p className="mt-3">
            <Button look="main" busy={busy} disabled={fitting.length === 0} onClick={() => connect()}>
              Connect {plural(fitting.length, 'course')}
            </Button>
          </p>
        </div>
      )}
    </section>
  );
}
