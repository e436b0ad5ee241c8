/** The texts of a wording: the student's, which take turns, and the words for third parties. */
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import type { Rule } from '@zest-bell/core/rules';
import type { CopyReader, Wording } from '@zest-bell/core/wording';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { readerWords, without, withCopy, withText, FIRST, type TextPlace } from './draft.ts';

const MOST_TEXTS = 9;
const ADD =
  'rounded-full border border-dashed border-pine px-3 py-0.5 text-[13.5px] font-semibold text-pine hover:border-solid';

/** Whom the wording may want own words for: those its rules write to, then those the course knows. */
function readersFor(here: CourseHere, rules: readonly Rule[], draft: Wording): CopyReader[] {
  const written = rules.flatMap((r) => r.steps.flatMap((s) => (s.wording === draft.id ? s.to : [])));
  const known = here.course.people.flatMap((p) => p.contacts.map((c) => `contact:${c.kind}`));
  const all = new Set([...written.filter((to) => to !== 'student'), ...known, 'instructor', 'anyone'] as CopyReader[]);
  const taken = new Set(draft.copies?.map((c) => c.to));
  return [...all].filter((to) => !taken.has(to));
}

export function Places(props: {
  readonly here: CourseHere;
  readonly rules: readonly Rule[];
  readonly draft: Wording;
  readonly place: TextPlace;
  readonly onPlace: (place: TextPlace) => void;
  readonly onChange: (draft: Wording) => void;
}) {
  const { here, rules, draft, place, onPlace, onChange } = props;
  const count = 1 + (draft.variants?.length ?? 0);
  const copies = draft.copies ?? [];
  const readers = readersFor(here, rules, draft);
  const isAt = (kind: TextPlace['kind'], index: number) => place.kind === kind && place.index === index;
  return (
    <div className="flex flex-wrap items-center gap-1.5" role="group" aria-label="Texts of this wording">
      {Array.from({ length: count }, (_, i) => (
        <Pill key={i} pressed={isAt('text', i)} onClick={() => onPlace({ kind: 'text', index: i })}>
          Text {i + 1}
        </Pill>
      ))}
      {count < MOST_TEXTS && (
        <button
          type="button"
          title="Texts rotate, so that nobody reads the same one twice in a row"
          onClick={() => {
            onChange(withText(draft, place));
            onPlace({ kind: 'text', index: count });
          }}
          className={ADD}
        >
          + another text
        </button>
      )}
      <span aria-hidden className="mx-1 h-5 border-l border-line-strong" />
      {copies.map((c, i) => (
        <Pill key={c.to} pressed={isAt('copy', i)} onClick={() => onPlace({ kind: 'copy', index: i })}>
          For {readerWords(c.to)}
        </Pill>
      ))}
      {readers.length > 0 && (
        <Popover.Root>
          <Popover.Trigger className={ADD}>+ text for a third party</Popover.Trigger>
          <Pop label="Text for a third party" align="center" className="grid w-[280px] p-2">
            {readers.map((to) => (
              <Popover.Close
                key={to}
                onClick={() => {
                  onChange(withCopy(draft, to));
                  onPlace({ kind: 'copy', index: copies.length });
                }}
                className="truncate rounded-lg px-2.5 py-1.5 text-left hover:bg-fog"
              >
                For {readerWords(to)}
              </Popover.Close>
            ))}
            <p className="border-t border-line px-2.5 pt-2 text-[13px] text-ink-2">
              Readers without their own text get the student’s text with a short introduction.
            </p>
          </Pop>
        </Popover.Root>
      )}
      {(place.kind === 'copy' || count > 1) && (
        <Button
          look="quiet"
          className="ml-auto"
          aria-label={place.kind === 'copy' ? 'Remove this text' : `Remove text ${place.index + 1}`}
          onClick={() => {
            onChange(without(draft, place));
            onPlace(FIRST);
          }}
        >
          Remove
        </Button>
      )}
    </div>
  );
}
