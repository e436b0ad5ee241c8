/** The texts of a wording: the student's, which take turns, and the words for third parties. */
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import type { Rule } from '@zest-bell/core/rules';
import type { CopyReader, Wording } from '@zest-bell/core/wording';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { PartTabs } from '../../ui/PageTabs.tsx';
import { readerWords, without, withCopy, withText, FIRST, type TextPlace } from './draft.ts';

const MOST_TEXTS = 9;

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
  /** Texts can be read, and none added or removed. */
  readonly locked: boolean;
  readonly onPlace: (place: TextPlace) => void;
  readonly onChange: (draft: Wording) => void;
}) {
  const { here, rules, draft, place, locked, onPlace, onChange } = props;
  const count = 1 + (draft.variants?.length ?? 0);
  const copies = draft.copies ?? [];
  const readers = readersFor(here, rules, draft);
  const keyOf = (at: TextPlace) => `${at.kind} ${at.index}`;
  const places: readonly { readonly at: TextPlace; readonly name: string }[] = [
    ...Array.from({ length: count }, (_, index) => ({
      at: { kind: 'text', index } as const,
      name: `Text ${index + 1}`,
    })),
    ...copies.map((c, index) => ({ at: { kind: 'copy', index } as const, name: `For ${readerWords(c.to)}` })),
  ];
  return (
    <div className="grid gap-1.5">
      <PartTabs
        label="Texts of this wording"
        value={keyOf(place)}
        tabs={places.map(({ at, name }) => ({ value: keyOf(at), name }))}
        onChange={(key) => onPlace(places.find(({ at }) => keyOf(at) === key)!.at)}
      />
      {!locked && (
        <div className="flex flex-wrap items-center gap-x-6 gap-y-1 pl-2">
          {count < MOST_TEXTS && (
            <Button
              look="quiet"
              title="Texts rotate, so that nobody reads the same one twice in a row"
              onClick={() => {
                onChange(withText(draft, place));
                onPlace({ kind: 'text', index: count });
              }}
            >
              + another text
            </Button>
          )}
          {readers.length > 0 && (
            <Popover.Root>
              <Popover.Trigger asChild>
                <Button look="quiet">+ text for a third party</Button>
              </Popover.Trigger>
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
      )}
    </div>
  );
}
