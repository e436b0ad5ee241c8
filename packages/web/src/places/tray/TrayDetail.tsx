/** One nudge that waits: why, as it was and as it is now, and the message as it would leave now. */
import { Link } from 'react-router';
import { plural } from '@zest-bell/core/time';
import { evidenceWords } from '@zest-bell/core/conditions';
import type { TrayLine } from '@zest-bell/core/exchange';
import { addressWords } from '../../lib/decisionWords.ts';
import { studentPath, type CourseHere } from '../../lib/here.ts';
import { When } from '../../ui/When.tsx';
import { MessageView } from '../../parts/messages/Message.tsx';

const WAITS = {
  step: 'This step of the rule asks you before it sends.',
  replied: 'The student replied after the last nudge. Read the reply before you send another.',
  outside: 'The message would go to an address outside your institution.',
} as const;

export function TrayDetail({
  here,
  line,
  lines,
}: {
  readonly here: CourseHere;
  readonly line: TrayLine;
  /** All students of one message that lists them, or the one. */
  readonly lines: readonly TrayLine[];
}) {
  const zone = here.course.timeZone;
  const several = lines.length > 1;
  const gone = lines.filter((l) => !l.stillTrue);
  const then = several ? '' : evidenceWords(line.evidence, zone);
  const now = several ? '' : evidenceWords(line.evidenceNow, zone);
  return (
    <section
      aria-label="The nudge"
      tabIndex={0}
      className="px-6 py-5 min-[900px]:min-h-0 min-[900px]:flex-1 min-[900px]:overflow-auto"
    >
      <h2 className="text-[21px] font-bold">
        {/* A message by hand may be to a guest, who has no page. */}
        {several ? (
          `${plural(lines.length, 'student')} in one message`
        ) : here.course.personIndex.has(line.student) ? (
          <Link className="underline-offset-4 hover:underline" to={studentPath(here, line.student)}>
            {line.name}
          </Link>
        ) : (
          line.name
        )}
      </h2>
      <p className="mt-1 text-[14.5px] text-ink-2">
        {line.rule === null ? (
          line.ruleName
        ) : (
          <Link
            className="font-semibold text-pine underline-offset-4 hover:underline"
            to={`/c/${here.id}/rules/${line.rule}`}
          >
            {line.ruleName}
          </Link>
        )}
        {line.step > 0 && `, step ${line.step + 1}`}, {line.rule !== null && 'check of '}
        <When at={line.roundAt} zone={zone} />
      </p>
      <p className="mt-2 text-[14.5px]">
        {WAITS[line.heldFor]}
        {line.heldFor === 'outside' &&
          ` Sending it allows that address for this ${line.rule === null ? 'message' : 'rule'}.`}
      </p>
      {several && (
        <>
          <p className="mt-2 text-[14.5px]">
            The message lists all of them. Send it as a whole, or decide student by student: whoever you dismiss is left
            out of the list.
          </p>
          <ul className="mt-2 grid gap-1 text-[14.5px]">
            {lines.map((l) => (
              <li key={l.nudge}>
                <Link className="font-semibold underline-offset-4 hover:underline" to={studentPath(here, l.student)}>
                  {l.name}
                </Link>
                : {evidenceWords(l.evidenceNow, zone)}
              </li>
            ))}
          </ul>
        </>
      )}
      {several && gone.length > 0 && (
        <p role="status" className="mt-2 rounded-xl bg-brass-soft px-4 py-2.5 text-[14.5px]">
          <strong>
            {plural(gone.length, 'student')} no longer {gone.length === 1 ? 'matches' : 'match'} the rule
          </strong>{' '}
          and will be left out.
        </p>
      )}
      {!several && !line.stillTrue && (
        <p role="status" className="mt-2 rounded-xl bg-brass-soft px-4 py-2.5 text-[14.5px]">
          <strong>
            {line.rule === null
              ? 'This student is no longer in the course.'
              : 'This student no longer matches the rule.'}
          </strong>{' '}
          If you send it now, Zest Bell cancels it before it leaves. Dismiss it, or decide later.
        </p>
      )}
      {then !== '' && (
        <p className="mt-2 text-[14.5px]">
          <strong>Why:</strong> {then}
        </p>
      )}
      {now !== then && now !== '' && (
        <p className="mt-1 text-[14.5px]">
          <strong>Now:</strong> {now}
        </p>
      )}
      <div className="mt-4">
        {line.message ? (
          <MessageView message={line.message} from={line.from} to={addressWords(line.to)} course={here.id} />
        ) : (
          <p role="alert" className="rounded-[18px] border border-line bg-sheet p-5">
            <span aria-hidden className="text-tangerine">
              ▲{' '}
            </span>
            {line.trouble ?? 'This message cannot be made.'}
          </p>
        )}
      </div>
    </section>
  );
}
