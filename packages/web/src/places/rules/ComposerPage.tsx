/** A rule as one sentence with marked parts that open in place, and its live reach beside it. */
import { copyName } from '../../ui/copyName.ts';
import { Fragment, useEffect, useMemo, useState } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { instantWords, roundInstants } from '@zest-bell/core/time';
import { conflictsIn } from '@zest-bell/core/conditions';
import { ruleParts, type Rule, type RulePart } from '@zest-bell/core/rules';
import type { RuleCard } from '@zest-bell/core/exchange';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { useRules } from '../../lib/queries.ts';
import { useSetCard } from '../../lib/sets.ts';
import { AskElsewhere } from '../../parts/common/AskElsewhere.tsx';
import { useStripRun } from '../../lib/stripRun.ts';
import { Button } from '../../ui/Button.tsx';
import { Explained } from '../../ui/Explained.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { attempt, attemptOver } from '../../lib/attempt.ts';
import {
  archiveWithUndo,
  createRule,
  dropBeside,
  keepBeside,
  saveWithUndo,
  setStatusWithUndo,
} from '../../lib/ruleActions.ts';
import { RuleName, RuleNote, RulePath, RuleTools } from './ComposerHead.tsx';
import { ConfirmDialog } from './ConfirmDialog.tsx';
import { draftKey, sameRule, useDrafts } from '../../parts/rule/draft.ts';
import { NumbersDialog } from './NumbersDialog.tsx';
import { AdviceLines, NoticeLine } from './parts/Advice.tsx';
import { AudiencePart } from '../../parts/rule/AudiencePart.tsx';
import { Conditions } from '../../parts/conditions/Conditions.tsx';
import { ExampleStrip } from './parts/ExampleStrip.tsx';
import { RepeatPart } from '../../parts/rule/RepeatPart.tsx';
import { RhythmPart, RunPart } from '../../parts/rule/RhythmPart.tsx';
import { RuleMeanwhile } from './parts/RuleMeanwhile.tsx';
import { StepLines } from './parts/StepLines.tsx';
import { FIRST, ReachPane } from './reach/ReachPane.tsx';
import { useReach } from './reach/useReach.ts';
import { RehearsalDialog } from './RehearsalDialog.tsx';
import { remarksOn } from './remarks.ts';
import { RingDialog } from './RingDialog.tsx';
import { leavesWithPaths, replaceAt, at as nodeAt, type Path } from '../../parts/conditions/tree.ts';
import { TurnOnDialog } from './TurnOnDialog.tsx';
import { Page } from '../../ui/Page.tsx';

export function ComposerPage() {
  const here = useHere();
  const id = useParams()['rule'];
  const rules = useRules(here.id);
  if (rules.isPending) return <Loading what="the rule" />;
  if (rules.isError) return <Failed error={rules.error} retry={() => void rules.refetch()} />;
  const card = rules.data.find((c) => c.rule.id === id);
  if (!card) {
    return (
      <Empty title="This rule does not exist">
        <Link className="marked" to={`/c/${here.id}/rules`}>
          Back to the rules
        </Link>
      </Empty>
    );
  }
  return <Composer key={`${here.id}/${card.rule.id}`} here={here} card={card} />;
}

/** The comparison is above the draft once the rule is read anew. */
const stays = (): void => undefined;

type OpenDialog = 'rehearsal' | 'ring' | 'turnOn' | 'confirm' | 'numbers' | 'elsewhere' | null;

function Composer({ here, card }: { readonly here: CourseHere; readonly card: RuleCard }) {
  const key = draftKey(here.id, card.rule.id);
  const draft = useDrafts((s) => s.drafts[key]);
  const { edit, rebase, drop } = useDrafts.getState();
  const navigate = useNavigate();
  const inSet = useSetCard(here.id, 'rule', card.rule.id);
  const rule: Rule = useMemo(
    // What a draft of an earlier release does not say yet is as it is saved.
    () => ({ ...card.rule, ...draft?.rule, status: card.rule.status }),
    [draft?.rule, card.rule],
  );
  const dirty = draft !== undefined && !sameRule(draft.rule, card.rule);
  const opened = useSearchParams()[0].get('open');
  const [open, setOpen] = useState<OpenDialog>(opened === 'turnOn' && card.rule.status !== 'on' ? 'turnOn' : null);
  const [busy, setBusy] = useState(false);
  const [chosen, setChosen] = useState<Path>([]);
  const [all, setAll] = useState(false);
  const live = useReach(here, rule, all ? Infinity : FIRST);
  const leaves = useMemo(() => leavesWithPaths(rule.when), [rule.when]);
  useRunOnStrip(here, rule);
  useUndoKeys(key);

  const change = (next: Partial<Rule>, tag?: string) => edit(key, card, { ...rule, ...next }, tag);

  // A draft that equals what is saved is dropped.
  useEffect(() => {
    if (draft && !dirty && draft.past.length === 0 && draft.future.length === 0) drop(key);
    else if (draft && !dirty && draft.version !== card.version) drop(key);
  }, [draft, dirty, drop, key, card.version]);

  const save = async () => {
    setBusy(true);
    const saved = await attemptOver(() => saveWithUndo(here, rule, card), stays);
    setBusy(false);
    if (saved) isSaved();
  };
  const beside = async () => {
    setBusy(true);
    const kept = await attemptOver(() => keepBeside(here, rule, card.version), stays);
    setBusy(false);
    if (kept) drop(key);
  };
  /** Saved here: courses that have it too are asked about. */
  const isSaved = () => {
    drop(key);
    setOpen(inSet && inSet.courses > 1 ? 'elsewhere' : null);
  };
  const copy = async (thenNumbers: boolean) => {
    const made = await attempt(() => createRule(here, { ...rule, name: copyName(rule.name, 120) }));
    if (made) await navigate(`/c/${here.id}/rules/${made.rule.id}${thenNumbers ? '?numbers' : ''}`);
  };
  const archive = async () => {
    const done = await attempt(async () => {
      await archiveWithUndo(here, card);
      return true;
    });
    if (done) await navigate(`/c/${here.id}/rules`);
  };

  const reach = live.result?.ok ? live.result.reach : null;
  const broken = live.result !== null && !live.result.ok;
  const on = rule.status === 'on';
  const preview = reach?.decisions.find((d) => d.outcome === 'sent')?.student ?? reach?.decisions[0]?.student ?? null;
  const remarks = useMemo(
    () => remarksOn(rule.when, conflictsIn(rule.when, here.course.marks), reach, here.course),
    [rule.when, here.course, reach],
  );
  const [before, after] = aroundConditions(ruleParts(rule, here.course));
  const firstLimit = after.find((part) => part.about === 'repeat');
  const shown = (part: RulePart, i: number) => (
    <Fragment key={i}>
      {part.marked ? markedPart(part, part === firstLimit) : part.words}
      {part.about === 'from' && (
        <>
          {' '}
          <button
            type="button"
            className="font-body text-[14px] font-semibold text-pine underline-offset-4 hover:underline"
            onClick={() => change({ spellsFrom: null })}
          >
            count all
          </button>
        </>
      )}
    </Fragment>
  );
  /** The control that opens where the words stand. */
  function markedPart({ about, words }: RulePart, isFirstLimit: boolean) {
    const { rhythm, audience } = rule;
    const of = { course: here.course, now: here.now };
    switch (about) {
      case 'rhythm':
        return <RhythmPart {...of} rhythm={rhythm} onChange={(next, tag) => change({ rhythm: next }, tag)} />;
      case 'run':
        return <RunPart {...of} rhythm={rhythm} onChange={(next, tag) => change({ rhythm: next }, tag)} />;
      case 'audience':
        return (
          <AudiencePart audience={audience} course={here.course} onChange={(next) => change({ audience: next })} />
        );
      case 'repeat':
      case 'weight':
        return (
          <RepeatPart
            words={words}
            course={here.course}
            rule={rule}
            onChange={change}
            open={opened === 'limits' && isFirstLimit}
          />
        );
      default:
        return words;
    }
  }
  const head = {
    here,
    rule,
    draftKey: key,
    onChange: change,
    onNumbers: () => setOpen('numbers'),
    onCopy: (thenNumbers: boolean) => void copy(thenNumbers),
    onArchive: card.archivedAt === null ? () => void archive() : null,
  };
  return (
    <Page
      title={rule.name}
      heading={<RuleName {...head} />}
      lead={<RulePath {...head} />}
      actions={<RuleTools {...head} />}
    >
      <div className="-mt-3 grid grid-cols-[minmax(0,1fr)] content-start gap-5 min-[1000px]:grid-cols-[minmax(0,1.21fr)_minmax(0,1fr)]">
        <section aria-label="The rule" className="flex min-w-0 flex-col">
          <RuleNote {...head} />
          {draft && dirty && draft.version !== card.version && (
            <RuleMeanwhile
              here={here}
              card={card}
              draft={draft}
              onMerged={(merged) => rebase(key, card, merged)}
              onDrop={() => drop(key)}
            />
          )}

          {card.drafted && <Drafted here={here} card={card} drafted={card.drafted} onTake={(taken) => change(taken)} />}

          <div className="mt-3 rounded-[18px] border border-line bg-sheet px-4 pt-4 min-[560px]:px-6">
            <div className="font-head text-[20.5px] leading-[1.68]" data-testid="sentence">
              <div>{before.map(shown)}</div>
              <Conditions
                when={rule.when}
                course={here.course}
                now={here.now}
                onChange={(when, tag) => change({ when }, tag)}
                onOpen={setChosen}
                remarks={remarks}
              />
              <div className="pb-3">{after.map(shown)}</div>
            </div>
            <AdviceLines here={here} rule={rule} />
            <StepLines here={here} rule={rule} student={preview} onChange={(steps, tag) => change({ steps }, tag)} />
            <ExampleStrip here={here} rule={rule} />
          </div>

          <NoticeLine here={here} rule={rule} />
          <div className="bottom-(--dock) z-10 mt-3 flex flex-wrap items-center gap-2.5 border-t border-line bg-fog py-3 min-[760px]:sticky">
            {on && !dirty ? (
              <span className="mr-1 text-[14.5px] font-semibold text-ink-2">Saved</span>
            ) : on && !here.may('rules.run') ? (
              <Button look="main" busy={busy} disabled={broken} onClick={() => beside()}>
                Save as a draft of the rule
              </Button>
            ) : on ? (
              <Button needs="rules.run" look="main" disabled={broken} onClick={() => setOpen('confirm')}>
                Confirm changes …
              </Button>
            ) : (
              <Button
                needs="rules.run"
                look="main"
                disabled={broken || card.archivedAt !== null}
                title={card.archivedAt === null ? undefined : 'Take the rule out of the archive first'}
                onClick={() => setOpen('turnOn')}
              >
                Turn on
              </Button>
            )}
            <Button disabled={broken} onClick={() => setOpen('rehearsal')}>
              Rehearse
            </Button>
            <Button
              disabled={broken}
              title="See what it would have sent over the term so far"
              onClick={() => navigate(`/c/${here.id}/replay?rule=${rule.id}${dirty ? '&with=draft' : ''}`)}
            >
              {dirty ? 'Replay this draft' : 'Replay'}
            </Button>
            {on ? (
              <>
                <Button
                  needs="rules.run"
                  disabled={dirty || broken}
                  title={dirty ? 'Confirm your changes first. Only the saved rule can run.' : 'Run this rule once, now'}
                  onClick={() => setOpen('ring')}
                >
                  Check now
                </Button>
                <Button needs="rules.run" onClick={() => attempt(() => setStatusWithUndo(here, [card], 'paused'))}>
                  Pause
                </Button>
              </>
            ) : (
              dirty && (
                <Button busy={busy} disabled={broken} onClick={() => save()}>
                  Save
                </Button>
              )
            )}
            <span className="ml-auto text-[13.5px] text-ink-3" role="status">
              {dirty ? (
                <>
                  {on ? 'This is a draft until you confirm it' : 'Your draft is kept in this browser'} ·{' '}
                  <button className="underline underline-offset-4" onClick={() => drop(key)}>
                    discard
                  </button>
                </>
              ) : on && card.cannotRun !== null ? (
                <span className="text-tangerine-text">▲ This rule is on and cannot run: {card.cannotRun}</span>
              ) : on ? (
                'This is the rule that runs'
              ) : (
                <>
                  Turn the rule on to <Explained word="check">check</Explained> now
                </>
              )}
            </span>
          </div>
        </section>
        <section aria-label="Who this rule reaches now" className="rounded-[18px] border border-line bg-sheet">
          <ReachPane
            here={here}
            rule={rule}
            live={live}
            leaves={leaves}
            chosen={chosen}
            onChoose={setChosen}
            remarks={remarks}
            all={all}
            onAll={setAll}
            onInstead={(path, leaf) => change({ when: replaceAt(rule.when, path, leaf)! })}
            onThreshold={(path, value) =>
              change(
                { when: replaceAt(rule.when, path, { ...nodeAt(rule.when, path), value })! },
                `drag:${path.join('.')}`,
              )
            }
          />
        </section>
      </div>
      {open === 'rehearsal' && <RehearsalDialog here={here} rule={rule} onClose={() => setOpen(null)} />}
      {open === 'ring' && <RingDialog here={here} card={card} onClose={() => setOpen(null)} />}
      {open === 'turnOn' && <TurnOnDialog here={here} card={card} rule={rule} onClose={() => setOpen(null)} />}
      {open === 'confirm' && (
        <ConfirmDialog here={here} card={card} rule={rule} onClose={() => setOpen(null)} onSaved={isSaved} />
      )}
      {open === 'elsewhere' && inSet && (
        <AskElsewhere course={here.id} card={inSet} name={rule.name} onClose={() => setOpen(null)} />
      )}
      {open === 'numbers' && (
        <NumbersDialog here={here} rule={rule} onChange={(next) => change(next)} onClose={() => setOpen(null)} />
      )}
    </Page>
  );
}

/** The sentence before and after its conditions, which stand in lines of their own and begin with their “who”. */
function aroundConditions(parts: readonly RulePart[]): readonly [readonly RulePart[], readonly RulePart[]] {
  const is = (about: RulePart['about']) => (part: RulePart) => part.about === about;
  const after = parts.slice(parts.findLastIndex(is('when')) + 1);
  // On a line of its own the rest needs no comma before it.
  const [first, ...rest] = after;
  return [
    parts.slice(0, parts.findIndex(is('who'))),
    first ? [{ ...first, words: first.words.replace(/^, /, '') }, ...rest] : [],
  ];
}

/** The run of the rule, and its looks to come, stand on the term strip while it is open. */
function useRunOnStrip(here: CourseHere, rule: Rule): void {
  const show = useStripRun((s) => s.show);
  const { rhythm } = rule;
  useEffect(() => {
    const from = rhythm.start.slice(0, 10);
    const until = rhythm.until ?? here.course.end;
    show({
      from: from < here.course.start ? here.course.start : from,
      until: until > here.course.end ? here.course.end : until,
      rounds: roundInstants(rhythm, here.course.calendar, here.now),
    });
    return () => show(null);
  }, [rhythm, here.course, here.now, show]);
}

function useUndoKeys(key: string): void {
  const { undo, redo } = useDrafts.getState();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== 'z') return;
      if (e.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(e.target.tagName)) return;
      e.preventDefault();
      if (e.shiftKey) redo(key);
      else undo(key);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [key, undo, redo]);
}

/** What somebody drafted beside a rule that is on: looked at here, then confirmed like any other change. */
function Drafted(props: {
  readonly here: CourseHere;
  readonly card: RuleCard;
  readonly drafted: NonNullable<RuleCard['drafted']>;
  readonly onTake: (rule: Rule) => void;
}) {
  const { here, card, drafted, onTake } = props;
  const { status, id } = card.rule;
  return (
    <div role="note" className="mt-3 rounded-xl border border-line bg-sheet p-4">
      <p className="font-semibold">
        {drafted.by} drafted changes to this rule on {instantWords(drafted.at, here.course.timeZone)}. They have no
        effect until somebody confirms them.
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button onClick={() => onTake({ ...drafted.rule, id, status })}>Look at their changes</Button>
        <Button onClick={() => attempt(() => dropBeside(here, id))}>Drop them</Button>
      </div>
    </div>
  );
}
