/** What a change would do to one copy: part by part three ways, whom it would reach, and what is in its way. */
import { plural } from '@zest-bell/core/time';
import type { SetChange, SetLine, SetMember } from '@zest-bell/core/exchange';
import type { PartChoices } from '@zest-bell/core/sets';
import { setProblemWords } from '../../lib/sets.ts';
import { FieldText, type Titles } from '../../parts/wording/FieldText.tsx';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';

export interface ChangeLinesProps {
  readonly member: SetMember;
  readonly change: SetChange;
  readonly items: Titles;
  readonly picks: PartChoices;
  readonly onPick: (picks: PartChoices) => void;
  /** Says that two items are the same; absent where nobody can. */
  readonly onSame?: (proposed: SetChange['proposed'][number], same: boolean) => void;
}

export function ChangeLines(props: ChangeLinesProps) {
  const { member, change, picks, onPick, onSame } = props;
  const { reach } = change;
  return (
    <>
      <ul className="grid gap-3">
        {change.lines.map((line) => (
          <Line key={line.part} {...props} line={line} onPick={(pick) => onPick({ ...picks, [line.part]: pick })} />
        ))}
      </ul>
      {change.proposed.map((p) => (
        <p
          key={p.from}
          className="mt-2 flex flex-wrap items-center gap-x-3 rounded-lg bg-fog px-3 py-1.5 text-[14.5px]"
        >
          <span>
            Is “{p.fromTitle}” the same as “{p.toTitle}” in {member.course.code}?
          </span>
          {onSame && (
            <>
              <Button look="quiet" onClick={() => onSame(p, true)}>
                They are the same
              </Button>
              <Button look="quiet" onClick={() => onSame(p, false)}>
                They are not
              </Button>
            </>
          )}
        </p>
      ))}
      {change.problems.map((p) => (
        <p key={p.path} className="mt-2 text-[14.5px] font-semibold text-tangerine-text">
          <span aria-hidden>▲ </span>
          {setProblemWords(p)}
        </p>
      ))}
      {reach && (
        <p className="mt-2 text-[14.5px]">
          With this change it finds <strong>{reach.after}</strong> of {plural(reach.students, 'student')} now. Without
          it, {reach.before}.
          <Names words="New" names={reach.more} />
          <Names words="No longer" names={reach.fewer} />
        </p>
      )}
    </>
  );
}

const Names = ({ words, names }: { readonly words: string; readonly names: readonly string[] }) =>
  names.length === 0 ? null : (
    <span className="block text-[13.5px] text-ink-2">
      {words}: {names.join('; ')}
    </span>
  );

function Line(
  props: Omit<ChangeLinesProps, 'onPick'> & {
    readonly line: SetLine;
    readonly onPick: (pick: 'here' | 'there') => void;
  },
) {
  const { member, change, items, picks, line } = props;
  const pick = Object.hasOwn(picks, line.part) ? picks[line.part]! : line.pick;
  const name = `${member.course.id} ${line.part}`;
  const choice = (value: 'here' | 'there', course: string, words: string) => (
    <label
      className={`flex cursor-pointer items-start gap-2 rounded-lg px-3 py-1.5 ${pick === value ? 'bg-zest-soft' : 'bg-fog'}`}
    >
      <input
        type="radio"
        name={name}
        checked={pick === value}
        onChange={() => props.onPick(value)}
        className="mt-1 size-4 shrink-0 accent-(--pine)"
      />
      <span className="min-w-0 break-words whitespace-pre-line">
        <span className="block text-[13px] text-ink-2">{course}</span>
        <Said line={line} items={items}>
          {words}
        </Said>
      </span>
    </label>
  );
  return (
    <li>
      <p className="mb-1 flex flex-wrap items-baseline gap-x-3">
        <strong>{line.title}</strong>
        {line.state === 'conflict' ? (
          <Chip tone={pick === null ? 'tangerine' : 'quiet'}>changed in both courses: choose one</Chip>
        ) : (
          <span className="text-[13px] text-ink-2">
            {line.state === 'taken' ? `changed in ${change.from}` : `changed only in ${member.course.code}`}
          </span>
        )}
      </p>
      <div
        role="radiogroup"
        aria-label={`${line.title} in ${member.course.code}`}
        className="grid gap-1.5 text-[14.5px] min-[760px]:grid-cols-2"
      >
        {choice('here', `As in ${change.from}`, line.here)}
        {choice('there', `As it is in ${member.course.code}`, line.there)}
      </div>
      {line.state === 'conflict' && (
        <p className="mt-1 text-[13.5px] text-ink-2">
          Both began as:{' '}
          <Said line={line} items={items}>
            {line.origin}
          </Said>
        </p>
      )}
    </li>
  );
}

function Said({
  line,
  items,
  children,
}: {
  readonly line: SetLine;
  readonly items: Titles;
  readonly children: string;
}) {
  if (children === '') return <em className="text-ink-2">nothing</em>;
  return line.isText ? <FieldText items={items}>{children}</FieldText> : children;
}

/** Conflicts that nobody has decided. */
export const openIn = ({ lines }: SetChange, picks: PartChoices): number =>
  lines.filter((l) => l.pick === null && !Object.hasOwn(picks, l.part)).length;
