/** What a student turned in and got, item by item, beside the class. */
import { useState } from 'react';
import { instantWords, percentWords } from '@zest-bell/core/time';
import type { Story } from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { GradeCell } from '../../parts/editing/GradeCell.tsx';
import { GradeDialog } from '../../parts/editing/GradeDialog.tsx';
import { Empty } from '../../parts/common/States.tsx';

export function GradesPart({
  here,
  student,
  story,
}: {
  readonly here: CourseHere;
  readonly student: string;
  readonly story: Story;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const itemOf = (id: string) => here.course.items[here.course.itemIndex.get(id) ?? -1];
  const titleOf = (id: string) => itemOf(id)?.title ?? id;
  const opened = story.items.find((i) => i.item === open);
  const openedItem = opened && itemOf(opened.item);
  const means = new Map(story.grades.map((g) => [g.item, g.classMean]));
  const zone = here.course.timeZone;
  if (story.items.length === 0)
    return <Empty title="No work yet">Items that are worth points or have a due date appear here.</Empty>;
  const at = (percent: number) => `${Math.max(0, Math.min(100, percent))}%`;
  return (
    <div className="overflow-auto rounded-[16px] border border-line bg-sheet px-5 py-2">
      <table className="w-full text-[14.5px]">
        <thead>
          <tr className="text-left text-[13px] text-ink-2">
            <th scope="col" className="py-1.5 pr-4">
              Item
            </th>
            <th scope="col" className="pr-4">
              Due
            </th>
            <th scope="col" className="pr-4">
              Result, %
            </th>
            <th scope="col">Beside the class</th>
          </tr>
        </thead>
        <tbody>
          {story.items.map((i) => {
            const mean = means.get(i.item) ?? null;
            return (
              <tr key={i.item} className="border-t border-line">
                <th scope="row" className="py-1.5 pr-4 text-left font-semibold">
                  {titleOf(i.item)}
                </th>
                <td className="pr-4 text-[13.5px] whitespace-nowrap text-ink-2">
                  {i.dueAt === null ? '–' : instantWords(i.dueAt, zone)}
                </td>
                <td className="pr-4">
                  <button
                    type="button"
                    title="Correct this score"
                    className="-mx-1.5 flex min-h-8 items-center gap-1.5 rounded-lg px-1.5 whitespace-nowrap hover:bg-fog"
                    onClick={() => setOpen(i.item)}
                  >
                    <GradeCell cell={i} />
                    <span className="sr-only">, correct the score of {titleOf(i.item)}</span>
                  </button>
                </td>
                <td className="min-w-36">
                  {i.score !== null && (
                    <span className="flex items-center gap-2">
                      <span aria-hidden className="relative h-1.5 w-24 flex-none rounded-full bg-line">
                        <span
                          className="absolute inset-y-0 left-0 rounded-full bg-pine"
                          style={{ width: at(i.score) }}
                        />
                        {mean !== null && (
                          <span className="absolute -top-1 h-3.5 w-0.5 bg-brass" style={{ left: at(mean) }} />
                        )}
                      </span>
                      {mean !== null && (
                        <span className="text-[13px] whitespace-nowrap text-ink-2">class {percentWords(mean)}</span>
                      )}
                    </span>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {opened && openedItem && (
        <GradeDialog here={here} student={student} item={openedItem} cell={opened} onClose={() => setOpen(null)} />
      )}
    </div>
  );
}
