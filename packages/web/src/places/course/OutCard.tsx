/** A course as a whole goes out: as a scenario file, with or without names. */
import { exportFile } from '../../lib/exporting.ts';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';

export function OutCard({ here }: { readonly here: CourseHere }) {
  return (
    <section aria-label="Export the course" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Export the course</h2>
      <p className="text-[14px] text-ink-2">
        The whole course as one file: its people, items, activity, grades, and rules. Anyone with the file can replay it
        and get the same decisions.
      </p>
      <div className="mt-3 flex flex-wrap gap-3">
        <Button onClick={() => exportFile(here.id, { what: 'course', as: 'scenario' })}>Export it</Button>
        <Button onClick={() => exportFile(here.id, { what: 'course', as: 'madeUp' })}>
          Export it with made-up names
        </Button>
      </div>
      <p className="mt-2 text-[13.5px] text-ink-2">
        With made-up names, the file has no student’s name, address, id, or contact. Section names, item titles, and
        rule names stay.
      </p>
    </section>
  );
}
