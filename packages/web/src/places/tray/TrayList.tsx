/** What waits, a line each: a nudge, or the students of one message that lists them, to be decided as one or one by one. */
import { useEffect, useRef } from 'react';
import { dayWords, plural } from '@zest-bell/core/time';
import { evidenceFacts } from '@zest-bell/core/conditions';
import type { CourseHere } from '../../lib/here.ts';
import { Chip } from '../../ui/Chip.tsx';
import type { DeskLine } from './decide.ts';
import { HELD_WORDS, namesOf, passesWords, type TrayEntry } from './trayWords.ts';

export function TrayList(props: {
  readonly here: CourseHere;
  /** Whether the lines are of several courses: each says of which. */
  readonly everywhere: boolean;
  readonly entries: readonly TrayEntry[];
  readonly shown: TrayEntry;
  readonly ticked: ReadonlySet<number>;
  readonly opened: ReadonlySet<string>;
  readonly onChoose: (entry: TrayEntry) => void;
  readonly onTick: (entry: TrayEntry) => void;
  readonly onOpen: (key: string) => void;
}) {
  const { entries, shown } = props;
  const list = useRef<HTMLUListElement>(null);
  useEffect(() => {
    list.current?.querySelector('[data-shown=true]')?.scrollIntoView({ block: 'nearest' });
  }, [shown.key]);
  return (
    <ul
      ref={list}
      aria-label="Waiting nudges"
      className="min-[900px]:min-h-0 min-[900px]:flex-1 min-[900px]:overflow-auto"
    >
      {entries.map((entry) => (
        <Line key={entry.key} {...props} entry={entry} />
      ))}
    </ul>
  );
}

function Line(props: Parameters<typeof TrayList>[0] & { readonly entry: TrayEntry }) {
  const { here, everywhere, entry, shown, ticked, opened } = props;
  const { lines, key, inside } = entry;
  const [first] = lines;
  const many = lines.length > 1;
  const isShown = key === shown.key;
  const name = many ? namesOf(lines) : first!.name;
  return (
    <li
      data-nudge={first!.nudge}
      data-shown={isShown}
      className={`flex items-start gap-3 border-b border-line py-[7px] pr-4 ${inside ? 'pl-11' : 'pl-4'} ${isShown ? 'bg-fog shadow-[inset_4px_0_0_var(--zest)]' : ''}`}
    >
      <input
        type="checkbox"
        aria-label={`Choose ${name}`}
        className="mt-1 size-4 accent-(--pine)"
        checked={lines.every((l) => ticked.has(l.nudge))}
        onChange={() => props.onTick(entry)}
      />
      <div className="min-w-0 flex-1">
        <button aria-pressed={isShown} className="block w-full min-w-0 text-left" onClick={() => props.onChoose(entry)}>
          <span className="flex items-center gap-x-2 max-[559px]:flex-wrap">
            {everywhere && (
              <span className="text-[13px] font-semibold whitespace-nowrap text-ink-2">{(first as DeskLine).code}</span>
            )}
            <strong className="min-w-0 truncate text-[14.5px] leading-[22px] font-semibold">
              {many ? `${plural(lines.length, 'student')} in one message` : name}
            </strong>
            <Exceptions here={here} entry={entry} />
            <span className="ml-auto text-[13px] whitespace-nowrap text-ink-3" title="Waiting since">
              {dayWords(first!.roundAt, here.course.timeZone)}
            </span>
          </span>
          <span className="block truncate text-[13px] leading-[18px] text-ink-2">
            {many
              ? name
              : evidenceFacts(first!.evidenceNow, here.course.timeZone)
                  .map((f) => f.words)
                  .join(' · ')}
            {!inside && ` · ${first!.ruleName}`}
          </span>
        </button>
        {many && (
          <button
            type="button"
            aria-expanded={opened.has(key)}
            className="mt-1 text-[13.5px] font-semibold text-pine underline-offset-4 hover:underline"
            onClick={() => props.onOpen(key)}
          >
            {opened.has(key) ? 'Decide as one' : 'Decide student by student'}
          </button>
        )}
      </div>
    </li>
  );
}

/** What is not as it is with most that waits: a reply, an address outside, a reason that has gone or soon will. */
function Exceptions({ here, entry: { lines, inside } }: { readonly here: CourseHere; readonly entry: TrayEntry }) {
  const [first] = lines;
  const many = lines.length > 1;
  const gone = lines.filter((l) => !l.stillTrue).length;
  return (
    <>
      {first!.heldFor !== 'step' && gone < lines.length && !inside && (
        <Chip tone="iris">{HELD_WORDS[first!.heldFor]}</Chip>
      )}
      {gone > 0 && (
        <Chip tone="brass">{many ? `${gone} no longer ${gone === 1 ? 'matches' : 'match'}` : 'no longer matches'}</Chip>
      )}
      {!first!.toStudent && !inside && <Chip tone="quiet">not to the student</Chip>}
      {!many && first!.passesAt !== null && <Chip tone="tangerine">{passesWords(first!.passesAt, here.now)}</Chip>}
      {first!.edited && <Chip tone="quiet">your own text</Chip>}
    </>
  );
}
