/** Changes to a rule that is on are a draft until they are confirmed here, with what they would change in its next round. */
import { useState } from 'react';
import { plural } from '@zest-bell/core/time';
import { evidenceWords } from '@zest-bell/core/conditions';
import { differences, type Rule } from '@zest-bell/core/rules';
import { compareRounds, type RoundChange } from '@zest-bell/core/rounds';
import type { RehearsalAnswer, RuleCard } from '@zest-bell/core/exchange';
import { useWordings } from '../../lib/queries.ts';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip, type Tone } from '../../ui/Chip.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { attemptOver } from '../../lib/attempt.ts';
import { saveWithUndo } from '../../lib/ruleActions.ts';
import { AskMany, reachesMany } from './AskMany.tsx';
import { useWhy, WhyField } from '../../parts/common/WhyField.tsx';
import { AskUnfinished } from '../../parts/wording/AskUnfinished.tsx';
import { AskOutside, newOutside } from './AskOutside.tsx';
import { DifferenceList } from './DifferenceList.tsx';
import { instantOf, useRehearsal, wouldWrite } from './Rehearsal.tsx';
import { useUnfinished } from './useUnfinished.ts';
import { withheldWords } from '../../lib/decisionWords.ts';

export function ConfirmDialog({
  here,
  card,
  rule,
  onSaved,
  onClose,
}: {
  readonly here: CourseHere;
  readonly card: RuleCard;
  /** The rule as drafted. */
  readonly rule: Rule;
  readonly onSaved: () => void;
  readonly onClose: () => void;
}) {
  const [busy, setBusy] = useState(false);
  const [yes, setYes] = useState(false);
  const why = useWhy(here.id, `rule ${rule.id}`);
  const wordings = useWordings(here.id);
  const nameOf = (id: string) => wordings.data?.find((w) => w.id === id)?.name ?? id;
  // Both at one moment: the draft's next round, or where it has none left, the saved rule's.
  const at = instantOf('nextRound', rule, here) ?? instantOf('nextRound', card.rule, here) ?? here.now;
  const before = useRehearsal(here, card.rule, at);
  const after = useRehearsal(here, rule, at);
  const heard = wouldWrite(after.data);
  const many = after.data !== undefined && reachesMany(here, heard);
  const error = before.error ?? after.error;
  const outside = newOutside(here, rule, card);
  const [outsideYes, setOutsideYes] = useState(false);
  const unfinished = useUnfinished(here, [rule]);
  const [asItIs, setAsItIs] = useState(false);
  const save = async () => {
    setBusy(true);
    const saved = await attemptOver(
      () =>
        saveWithUndo(here, rule, card, {
          confirmed: yes,
          outside: outsideYes ? outside.map((to) => to.address) : [],
          why: why.value,
        }),
      onClose,
    );
    setBusy(false);
    if (!saved) return;
    why.drop();
    onSaved();
  };
  return (
    <Dialog
      open
      wide
      onClose={onClose}
      title={`Change “${card.rule.name}”, which is on`}
      note="Until you confirm, the rule runs as it was. Messages that it has sent stay sent."
      foot={
        <>
          <Button className="ml-auto" onClick={onClose}>
            Keep as draft
          </Button>
          <Button
            look="main"
            busy={busy}
            disabled={
              !after.data ||
              !before.data ||
              (many && !yes) ||
              (outside.length > 0 && !outsideYes) ||
              (unfinished.length > 0 && !asItIs)
            }
            onClick={() => save()}
          >
            Confirm changes
          </Button>
        </>
      }
    >
      {after.data?.unheard.map((words) => (
        <p key={words} role="alert" className="bg-tangerine-soft px-6 py-2.5 text-[14.5px]">
          ▲ {words}
        </p>
      ))}
      <div className="grid min-[760px]:grid-cols-2">
        <section className="border-line p-6 min-[760px]:border-r">
          <h3 className="mb-2 text-[17px] font-bold">What you changed</h3>
          <DifferenceList all={differences(card.rule, rule, here.course, nameOf)} />
        </section>
        <section className="p-6" aria-label="What changes in the next check">
          <h3 className="mb-2 text-[17px] font-bold">
            In the next check, <When at={at} zone={here.course.timeZone} />
          </h3>
          {error ? (
            <Failed error={error} />
          ) : before.data && after.data ? (
            <Changes here={here} before={before.data} after={after.data} />
          ) : (
            <Loading what="both checks" />
          )}
        </section>
      </div>
      <div className="border-t border-line px-6 py-4">
        <WhyField why={why.value} onChange={why.set} />
      </div>
      {unfinished.length > 0 && (
        <div className="px-6 py-3">
          <AskUnfinished parts={unfinished} act="Confirm the rule with this text" yes={asItIs} onYes={setAsItIs} />
        </div>
      )}
      {many && <AskMany here={here} heard={heard} yes={yes} onYes={setYes} />}
      {outside.length > 0 && <AskOutside here={here} addresses={outside} yes={outsideYes} onYes={setOutsideYes} />}
    </Dialog>
  );
}

const KINDS: Readonly<Record<RoundChange['kind'], { readonly words: string; readonly tone: Tone }>> = {
  hears: { words: 'is nudged now', tone: 'zest' },
  hearsNoMore: { words: 'is no longer nudged', tone: 'quiet' },
  hearsOtherwise: { words: 'is nudged differently', tone: 'iris' },
  withheldOtherwise: { words: 'held back for another reason', tone: 'quiet' },
};

/** What becomes of one student: anyone who is found by one version alone is said to match now, or no longer. */
function changeWords({ kind, before, after }: RoundChange): string {
  if (kind === 'hearsNoMore' && after === null) return 'no longer matches, so is not nudged';
  if (kind === 'withheldOtherwise' && before === null) return 'matches now, and is held back';
  if (kind === 'withheldOtherwise' && after === null) return 'no longer matches';
  return KINDS[kind].words;
}

function Changes(props: {
  readonly here: CourseHere;
  readonly before: RehearsalAnswer;
  readonly after: RehearsalAnswer;
}) {
  const { here, before, after } = props;
  const changes = compareRounds(
    before.nudges.map((n) => n.decision),
    after.nudges.map((n) => n.decision),
  );
  const [was, now] = [wouldWrite(before), wouldWrite(after)];
  return (
    <>
      <p className="mb-3" data-testid="round-change">
        {was === now
          ? `${plural(now, 'student')} would be nudged, as before.`
          : `${plural(now, 'student')} would be nudged; before, it was ${was}.`}
      </p>
      {changes.length === 0 && <p className="text-ink-2">Nothing changes for anyone.</p>}
      <ul>
        {changes.map((c) => (
          <li key={c.student} className="border-b border-line py-2 text-[14px]">
            <span className="flex items-center gap-3">
              <strong className="min-w-0 flex-1 truncate">{nameOf(here, c.student)}</strong>
              <Chip tone={KINDS[c.kind].tone}>{changeWords(c)}</Chip>
            </span>
            <span className="block text-ink-2">
              {evidenceWords((c.after ?? c.before)!.evidence, here.course.timeZone)}
              {c.after?.outcome === 'withheld' && ` · ${withheldWords(c.after.reason)}`}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
