/** Exactly who would get what, and who is withheld and why: a round without effect. */
import { useState, type ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import { listWords, nextRound, plural } from '@zest-bell/core/time';
import type { Rule } from '@zest-bell/core/rules';
import { fieldTitle } from '@zest-bell/core/wording';
import { byOutcome, type Decision } from '@zest-bell/core/rounds';
import type { RehearsalAnswer, RenderedNudge } from '@zest-bell/core/exchange';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { Figures } from '../../ui/Figures.tsx';
import { heldBackWords, isAbout, VerdictRow, verdictOf } from '../../parts/reach/VerdictRow.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { rehearse } from '../../lib/ruleActions.ts';
import { MessageView } from '../../parts/messages/Message.tsx';
import { addressWords } from '../../lib/decisionWords.ts';
import { nudgeInTheWayWords, useRuleNames } from '../../lib/nudgeInTheWay.ts';

export type RehearsalMoment = 'now' | 'nextRound';

/** Which instant a moment means; null when the rule has no round left. */
export const instantOf = (moment: RehearsalMoment, rule: Rule, here: CourseHere): number | null =>
  moment === 'now' ? here.now : nextRound(rule.rhythm, here.course.calendar, here.now);

export function useRehearsal(here: CourseHere, rule: Rule, at: number | null) {
  return useQuery({
    queryKey: ['rehearsal', here.id, JSON.stringify(rule), at],
    queryFn: ({ signal }) => rehearse(here, rule, at!, signal),
    enabled: at !== null,
    staleTime: 0,
  });
}

export function RehearsalView({
  here,
  rehearsal,
  scope,
}: {
  readonly here: CourseHere;
  readonly rehearsal: ReturnType<typeof useRehearsal>;
  /** What it is a rehearsal of, where that can be chosen. */
  readonly scope?: ReactNode;
}) {
  // As high from the beginning as with all that comes: the buttons below stay where they are.
  return (
    <>
      <div className="flex min-h-14 flex-wrap items-center gap-x-6 gap-y-2 border-b border-line px-6 py-2.5">
        {rehearsal.data && <RehearsalFigures answer={rehearsal.data} />}
        {scope !== undefined && <div className="ml-auto">{scope}</div>}
      </div>
      {rehearsal.data?.unheard.map((words) => (
        <p key={words} role="alert" className="bg-tangerine-soft px-6 py-2.5 text-[14.5px]">
          ▲ {words}
        </p>
      ))}
      <div className="grid min-[760px]:h-[min(56vh,520px)]">
        <RehearsalBody here={here} rehearsal={rehearsal} />
      </div>
    </>
  );
}

function RehearsalBody({ here, rehearsal }: Parameters<typeof RehearsalView>[0]) {
  const [chosen, setChosen] = useState<string | null>(null);
  const names = useRuleNames(here);
  if (rehearsal.isError) return <Failed error={rehearsal.error} retry={() => void rehearsal.refetch()} />;
  if (!rehearsal.data) return <Loading what="who would be nudged" />;
  const answer = rehearsal.data;
  if (answer.nudges.length === 0) {
    return (
      <Empty title="Nobody would be nudged">
        {answer.matching === 0 ? 'No student matches at that time.' : 'Students match, but no message is due yet.'}
      </Empty>
    );
  }
  const nudges = byOutcome(answer.nudges, (n) => n.decision);
  const shown = nudges.find((n) => n.decision.student === chosen) ?? nudges[0]!;
  const refusal =
    shown.decision.outcome === 'withheld' ? heldBackWords(shown.decision.reason, takenWords(shown, names, here)) : null;
  return (
    <div className="grid min-h-0 min-[760px]:grid-cols-[1fr_1.1fr] min-[760px]:grid-rows-[minmax(0,1fr)]">
      <ul
        className="overflow-auto border-line p-2 max-[760px]:max-h-[56vh] min-[760px]:border-r"
        aria-label="Who, and why"
      >
        {nudges.map((n) => (
          <li key={n.decision.student}>
            <button
              aria-pressed={n === shown}
              onClick={() => setChosen(n.decision.student)}
              className="w-full rounded-xl border border-transparent px-3 py-1.5 hover:bg-fog aria-pressed:border-line-strong aria-pressed:bg-fog"
            >
              <VerdictRow
                name={nameOf(here, n.decision.student)}
                verdict={verdictOf(n.decision, takenWords(n, names, here))}
                evidence={n.decision.evidence}
                zone={here.course.timeZone}
              />
            </button>
          </li>
        ))}
      </ul>
      <div
        tabIndex={0}
        aria-label="The message"
        role="region"
        className="overflow-auto bg-fog p-5 max-[760px]:max-h-[56vh]"
        aria-live="polite"
      >
        {shown.messages.length > 0 ? (
          <>
            {refusal !== null && (
              <p className="mb-3 text-[14.5px]">
                <strong>Would not be sent</strong>: {refusal}. Without that it would read:
              </p>
            )}
            {shown.messages.map(({ to, message, files, text, together }) => (
              <div key={to.address} className="mb-3">
                {(text !== null || together !== null) && (
                  <p className="mb-1 text-[13.5px] text-ink-2">
                    {[
                      text === null ? '' : `Text ${text + 1} of this wording`,
                      together === null ? '' : `One message about ${plural(together, 'student')}`,
                    ]
                      .filter(Boolean)
                      .join(' · ')}
                  </p>
                )}
                <MessageView
                  message={message}
                  from={`${answer.from.name} · ${answer.from.address}`}
                  to={addressWords([to])}
                  course={here.id}
                  files={files}
                />
                {message.blanks.length > 0 && (
                  <p className="mt-2 text-[14px] text-tangerine-text">
                    ▲ These fields are empty for this student and have no fallback:{' '}
                    {listWords(message.blanks.map(fieldTitle))}.
                  </p>
                )}
              </div>
            ))}
            {shown.decision.sendAt !== null && shown.decision.sendAt > shown.decision.round && (
              <p className="mt-3 text-[14px] text-ink-2">
                Quiet hours: it leaves <When at={shown.decision.sendAt} zone={here.course.timeZone} />, if the student
                still matches.
              </p>
            )}
          </>
        ) : (
          <Empty title="Would not be nudged">
            {nameOf(here, shown.decision.student)} matches; {refusal ?? 'nothing would be sent'}.
          </Empty>
        )}
      </div>
    </div>
  );
}

/** What used up the message budget, in words. */
const takenWords = (n: RenderedNudge, names: ReadonlyMap<string, string>, here: CourseHere): string | null =>
  nudgeInTheWayWords(n.taken, names, here.course.timeZone);

const countOf = (answer: RehearsalAnswer, ...outcomes: Decision['outcome'][]): number =>
  answer.nudges.filter((n) => outcomes.includes(n.decision.outcome)).length;

/** What would become of those who match, each student counted once. */
function countsOf(answer: RehearsalAnswer) {
  const sent = answer.nudges.map((n) => n.decision).filter((d) => d.outcome === 'sent');
  const about = sent.filter(isAbout).length;
  const [held, withheld] = [countOf(answer, 'held'), countOf(answer, 'withheld')];
  return { nudged: sent.length - about, about, held, withheld };
}

/** The answer in figures, over the list of who. */
function RehearsalFigures({ answer }: { readonly answer: RehearsalAnswer }) {
  const { nudged, about, held, withheld } = countsOf(answer);
  const figures = [
    { n: answer.matching, words: answer.matching === 1 ? 'matches' : 'match' },
    ...(nudged > 0 || about === 0 ? [{ n: nudged, words: 'would be nudged' }] : []),
    ...(about > 0 ? [{ n: about, words: about === 1 ? 'alert to others' : 'alerts to others' }] : []),
    ...(held > 0 ? [{ n: held, words: 'would wait for you' }] : []),
    ...(withheld > 0 ? [{ n: withheld, words: 'held back' }] : []),
  ];
  return (
    <div role="status" data-testid="rehearsed">
      <Figures figures={figures} />
    </div>
  );
}

/** "7 students match: 4 would be nudged, 1 would wait for you, 2 held back." */
export function rehearsalWords(answer: RehearsalAnswer): string {
  const { nudged, about, held, withheld } = countsOf(answer);
  const parts = nudged > 0 || about === 0 ? [`${nudged} would be nudged`] : [];
  if (about > 0) parts.push(`others would be told about ${about}`);
  if (held > 0) parts.push(`${held} would wait for you`);
  if (withheld > 0) parts.push(`${withheld} held back`);
  return `${plural(answer.matching, 'student')} ${answer.matching === 1 ? 'matches' : 'match'}: ${parts.join(', ')}.`;
}

/** About how many students something would be written, at once or once the instructor says yes. */
export const wouldWrite = (answer: RehearsalAnswer | undefined): number =>
  answer ? countOf(answer, 'sent', 'held') : 0;
