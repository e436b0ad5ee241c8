/** How many students have opened, practiced, or turned in each item, fewest first, with a message to the others. */
import { useState } from 'react';
import type { ClassOverview } from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { ITEM_DONE_WORDS } from '../../parts/common/itemKindWords.ts';
import { WriteToOthers } from '../../parts/editing/WriteToOthers.tsx';
import { Button } from '../../ui/Button.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';

/** Rows before somebody asks for all. */
const FIRST = 8;

export function DoneCard({ here, done }: { readonly here: CourseHere; readonly done: ClassOverview['done'] }) {
  const [all, setAll] = useState(false);
  const [asked, setAsked] = useState<string | null>(null);
  const share = ({ did, not }: ClassOverview['done'][number]) => did / (did + not);
  const listed = done.filter(({ did, not }) => did + not > 0).toSorted((a, b) => share(a) - share(b));
  const shown = all ? listed : listed.slice(0, FIRST);
  const item = here.course.items[here.course.itemIndex.get(asked ?? '') ?? -1];
  if (listed.length === 0) return null;
  return (
    <section
      id="done"
      aria-label="Opened and turned in"
      className="min-w-0 rounded-[16px] border border-line bg-sheet px-5 py-4"
    >
      <h2 className="text-[17px] font-bold">Opened and turned in</h2>
      <p className="text-[14px] text-ink-2">
        How many students have opened, practiced, or turned in each item, fewest first.
      </p>
      <PlainTable
        label="Opened and turned in"
        columns={[{ name: 'Item' }, { name: 'Have', right: true }, { name: 'Have not' }]}
        rows={shown.map(({ item: id, did, not }) => {
          const { title, kind } = here.course.items[here.course.itemIndex.get(id)!]!;
          return {
            key: id,
            head: title,
            cells: [
              `${did} of ${did + not} ${ITEM_DONE_WORDS[kind]}`,
              not === 0 ? (
                '–'
              ) : (
                <Button needs="nudges.decide" busy={asked === id} onClick={() => setAsked(id)}>
                  {`Write to the ${not} who have not`}
                </Button>
              ),
            ],
          };
        })}
      />
      {listed.length > FIRST && (
        <Button look="quiet" onClick={() => setAll(!all)}>
          {all ? 'Show the first ones' : `Show all ${listed.length} items`}
        </Button>
      )}
      {item && <WriteToOthers here={here} item={item} />}
    </section>
  );
}
