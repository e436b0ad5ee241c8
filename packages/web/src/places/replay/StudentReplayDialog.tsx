/** Every decision of a replay about one student, each with its evidence as of its round. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { instantWords, plural } from '@zest-bell/core/time';
import { daysBetween } from '@zest-bell/core/measures';
import { evidenceWords } from '@zest-bell/core/conditions';
import { ruleDocument, type Rule } from '@zest-bell/core/rules';
import { WITHHELD_WORDS, type WithheldReason } from '@zest-bell/core/rounds';
import type { ReplayMark } from '@zest-bell/core/outcomes';
import type { ReplayEvidence } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { nameOf, studentPath, type CourseHere } from '../../lib/here.ts';
import { Chip } from '../../ui/Chip.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { When } from '../../ui/When.tsx';

export function StudentReplayDialog(props: {
  readonly here: CourseHere;
  readonly student: string;
  /** What was decided in each version: one, or as it is and as tried. */
  readonly versions: readonly {
    readonly name: string | null;
    readonly marks: readonly ReplayMark[];
    readonly changed: Rule | null;
  }[];
  readonly names: ReadonlyMap<string, string>;
  readonly onClose: () => void;
}) {
  const { here, student, versions, names } = props;
  return (
    <Dialog
      open
      onClose={props.onClose}
      title={nameOf(here, student)}
      note={
        <Link className="font-semibold text-pine underline underline-offset-4" to={studentPath(here, student)}>
          Open this student
        </Link>
      }
    >
      {versions.map(({ name, marks, changed }, i) => (
        <section key={i} className="px-6 py-3" {...(name !== null && { 'aria-label': name })}>
          {name !== null && <h3 className="text-[13px] font-semibold text-ink-2">{name}</h3>}
          {marks.length === 0 && <p className="text-ink-2">Nothing was decided about this student.</p>}
          <ul>
            {marks.map((m) => (
              <Mark
                key={`${m.rule} ${m.round}`}
                {...{ here, student, changed }}
                mark={m}
                name={names.get(m.rule) ?? m.rule}
              />
            ))}
          </ul>
        </section>
      ))}
    </Dialog>
  );
}

function Mark(props: {
  readonly here: CourseHere;
  readonly student: string;
  readonly changed: Rule | null;
  readonly mark: ReplayMark;
  readonly name: string;
}) {
  const { here, student, changed, mark: m, name } = props;
  const [open, setOpen] = useState(false);
  const { timeZone: zone, calendar } = here.course;
  const evidence = useQuery({
    queryKey: ['replayEvidence', here.id, student, m.rule, m.round, changed],
    queryFn: () =>
      ask(
        contract.rounds.evidence,
        { course: here.id },
        {
          body: {
            rule: m.rule,
            student,
            at: m.round,
            step: m.step,
            ...(changed?.id === m.rule && { changed: ruleDocument(changed, zone) }),
          },
        },
      ),
    enabled: open,
    staleTime: Infinity,
  });
  return (
    <li className="border-b border-line py-2 last:border-b-0">
      <button
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        className="flex w-full flex-wrap items-baseline gap-x-3 gap-y-1 text-left"
      >
        <span className="font-semibold">
          <When at={m.round} zone={zone} />
        </span>
        {m.outcome === 'sent' ? (
          <Chip tone="zest">nudged</Chip>
        ) : m.outcome === 'held' ? (
          <Chip tone="iris">waiting for you</Chip>
        ) : m.outcome === 'withheld' ? (
          <Chip tone="quiet">held back: {WITHHELD_WORDS[m.reason as WithheldReason]}</Chip>
        ) : (
          <Chip tone="quiet">canceled</Chip>
        )}
        <span className="text-[14px] text-ink-2">
          {name}
          {m.step > 0 && `, step ${m.step + 1}`}
        </span>
      </button>
      {open && (
        <div className="mt-1 text-[14.5px] text-ink-2">
          <p>
            Matches since {instantWords(m.spellStart, zone)},{' '}
            {plural(daysBetween(calendar, m.spellStart, m.round), 'day')} before.{' '}
            {evidence.data
              ? evidenceWords(evidence.data.evidence, zone)
              : evidence.error
                ? 'The evidence cannot be read now.'
                : 'Reading …'}
          </p>
          {evidence.data && m.outcome !== 'withheld' && <WouldRead message={evidence.data.message} />}
        </div>
      )}
    </li>
  );
}

/** The message of a nudge, as it would have read then. */
function WouldRead({ message }: { readonly message: ReplayEvidence['message'] }) {
  if (!message) return <p className="mt-1">The text of this step cannot be read now. Open its wording.</p>;
  return (
    <div className="mt-2 rounded-xl border border-line bg-fog px-4 py-2.5 text-ink">
      <p className="text-[13px] text-ink-2">The message would have read:</p>
      <p className="font-semibold">{message.subject}</p>
      <p className="whitespace-pre-wrap">{message.text}</p>
    </div>
  );
}
