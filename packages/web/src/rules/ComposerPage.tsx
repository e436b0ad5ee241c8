/** A rule as one sentence whose marked parts open where they stand, with its live reach beside it. */
import { useEffect, useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { Redo2, Undo2 } from 'lucide-react';
import { type Rule, type RuleCard } from '@zest-bell/core';
import { useHere, type Here } from '../app/here.ts';
import { useRules } from '../app/queries.ts';
import { Button } from '../ui/Button.tsx';
import { Chip } from '../ui/Chip.tsx';
import { Empty, Failed, Loading } from '../ui/States.tsx';
import { attempt, saveWithUndo, setStatusWithUndo } from './actions.ts';
import { draftKey, sameRule, useDrafts } from './draft.ts';
import { limitsWords } from './limits.ts';
import { AudiencePart } from './parts/AudiencePart.tsx';
import { Conditions } from './parts/Conditions.tsx';
import { RepeatPart } from './parts/RepeatPart.tsx';
import { RhythmPart, RunPart } from './parts/RhythmPart.tsx';
import { StepLine } from './parts/StepLine.tsx';
import { ReachPane } from './reach/ReachPane.tsx';
import { useReach } from './reach/useReach.ts';
import { RehearsalDialog } from './RehearsalDialog.tsx';
import { RingDialog } from './RingDialog.tsx';
import { leavesWithPaths, replaceAt, at as nodeAt, type Path } from './tree.ts';
import { TurnOnDialog } from './TurnOnDialog.tsx';

export function ComposerPage() {
  const here = useHere();
  const id = useParams()['rule'];
  const rules = useRules(here.id);
  if (rules.isPending) return <Loading what="the rule" />;
  if (rules.isError) return <Failed error={rules.error} retry={() => void rules.refetch()} />;
  const card = rules.data.find((c) => c.rule.id === id);
  if (!card) {
    return (
      <Empty title="There is no such rule here">
        <Link className="marked" to={`/c/${here.id}/rules`}>
          Back to the rules
        </Link>
      </Empty>
    );
  }
  return <Composer key={`${here.id}/${card.rule.id}`} here={here} card={card} />;
}

type Open = 'rehearsal' | 'ring' | 'turnOn' | null;

function Composer({ here, card }: { readonly here: Here; readonly card: RuleCard }) {
  const key = draftKey(here.id, card.rule.id);
  const draft = useDrafts((s) => s.drafts[key]);
  const { edit, undo, redo, rebase, drop } = useDrafts.getState();
  const rule: Rule = useMemo(
    () => ({ ...(draft?.rule ?? card.rule), status: card.rule.status }),
    [draft?.rule, card.rule],
  );
  const dirty = draft !== undefined && !sameRule(draft.rule, card.rule);
  const [open, setOpen] = useState<Open>(null);
  const [busy, setBusy] = useState(false);
  const [chosen, setChosen] = useState<Path>([]);
  const live = useReach(here, rule);
  const leaves = useMemo(() => leavesWithPaths(rule.when), [rule.when]);

  const change = (next: Partial<Rule>, tag?: string) => edit(key, card, { ...rule, ...next }, tag);

  // A draft that says what is saved anyway is none.
  useEffect(() => {
    if (draft && !dirty && draft.past.length === 0 && draft.future.length === 0) drop(key);
    else if (draft && !dirty && draft.version !== card.version) drop(key);
  }, [draft, dirty, drop, key, card.version]);

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

  const save = async () => {
    setBusy(true);
    const saved = await attempt(() => saveWithUndo(here, rule, card));
    setBusy(false);
    if (saved) drop(key);
  };

  const reach = live.result?.ok ? live.result.reach : null;
  const broken = live.result !== null && !live.result.ok;
  const on = rule.status === 'on';
  const preview = reach?.decisions.find((d) => d.outcome === 'sent')?.student ?? reach?.decisions[0]?.student ?? null;
  return (
    <div className="grid flex-1 grid-cols-[minmax(0,1fr)] content-start min-[1000px]:content-stretch min-[1000px]:grid-cols-[minmax(0,1.21fr)_minmax(0,1fr)]">
      <section aria-label="The rule" className="min-w-0 px-5 py-6 min-[560px]:px-7">
        <p className="text-[14px] text-ink-3">
          <Link className="hover:underline" to={`/c/${here.id}/rules`}>
            Rules
          </Link>
          {rule.label && ` / ${rule.label}`}
        </p>
        <div className="mt-0.5 flex items-center gap-3">
          <input
            aria-label="Name of the rule"
            value={rule.name}
            maxLength={120}
            onChange={(e) => change({ name: e.target.value }, 'name')}
            className="-mx-1.5 field-sizing-content min-w-24 max-w-full rounded-lg border border-transparent bg-transparent px-1.5 font-head text-[27px] leading-tight font-bold hover:border-line-strong"
          />
          <Chip tone={on ? 'zest' : 'quiet'}>{on ? '● on' : rule.status === 'draft' ? 'draft' : 'paused'}</Chip>
          <span className="ml-auto flex">
            <IconButton label="Undo" disabled={!draft?.past.length} onClick={() => undo(key)}>
              <Undo2 size={17} aria-hidden />
            </IconButton>
            <IconButton label="Redo" disabled={!draft?.future.length} onClick={() => redo(key)}>
              <Redo2 size={17} aria-hidden />
            </IconButton>
          </span>
        </div>
        <input
          aria-label="A remark to yourself"
          value={rule.note}
          placeholder="A remark to yourself"
          maxLength={2000}
          onChange={(e) => change({ note: e.target.value }, 'note')}
          className="-mx-1.5 w-full rounded-lg border border-transparent bg-transparent px-1.5 py-0.5 text-ink-2 hover:border-line-strong"
        />
        {draft && dirty && draft.version !== card.version && (
          <div role="alert" className="mt-3 rounded-xl border border-line bg-sheet p-4">
            <p className="font-semibold">This rule was changed elsewhere since you began. Your draft is kept.</p>
            <div className="mt-2 flex gap-2">
              <Button onClick={() => rebase(key, card.version)}>Go on with my draft</Button>
              <Button onClick={() => drop(key)}>Take what is saved</Button>
            </div>
          </div>
        )}

        <div className="mt-4 rounded-[18px] border border-line bg-sheet px-4 pt-5 pb-1 min-[560px]:px-6">
          <div className="font-head text-[20.5px] leading-[1.72]" data-testid="sentence">
            <div>
              Look{' '}
              <RhythmPart
                rhythm={rule.rhythm}
                course={here.course}
                onChange={(rhythm, tag) => change({ rhythm }, tag)}
              />
              ,{' '}
              <RunPart rhythm={rule.rhythm} course={here.course} onChange={(rhythm, tag) => change({ rhythm }, tag)} />,
              for{' '}
              <AudiencePart
                audience={rule.audience}
                course={here.course}
                onChange={(audience) => change({ audience })}
              />
            </div>
            <Conditions
              when={rule.when}
              course={here.course}
              now={here.now}
              onChange={(when, tag) => change({ when }, tag)}
              onOpen={setChosen}
            />
            <div className="pb-3">
              and nudge each of them{' '}
              <RepeatPart repeat={rule.repeat} onChange={(repeat, tag) => change({ repeat }, tag)} />.
            </div>
          </div>
          {rule.steps.map((step, i) => (
            <StepLine
              key={i}
              here={here}
              step={step}
              when={rule.when}
              student={preview}
              onChange={(next) => change({ steps: rule.steps.map((s, n) => (n === i ? next : s)) })}
            />
          ))}
        </div>

        <p className="mt-3.5 text-[14px] text-ink-2">{limitsWords(here.course.settings)}</p>
        <div className="mt-5 flex flex-wrap items-center gap-2.5">
          {on ? (
            <Button look="main" busy={busy} disabled={!dirty || broken} onClick={() => void save()}>
              {dirty ? 'Save changes' : 'Saved'}
            </Button>
          ) : (
            <Button look="main" disabled={broken} onClick={() => setOpen('turnOn')}>
              Turn on
            </Button>
          )}
          <Button disabled={broken} onClick={() => setOpen('rehearsal')}>
            Rehearse
          </Button>
          {on ? (
            <>
              <Button
                disabled={dirty || broken}
                title={dirty ? 'Save the changes first: what rings is what is saved' : undefined}
                onClick={() => setOpen('ring')}
              >
                Ring now
              </Button>
              <Button onClick={() => void attempt(() => setStatusWithUndo(here, [card], 'paused'))}>Pause</Button>
            </>
          ) : (
            dirty && (
              <Button busy={busy} disabled={broken} onClick={() => void save()}>
                Save
              </Button>
            )
          )}
          <span className="ml-auto text-[13.5px] text-ink-3" role="status">
            {dirty ? (
              <>
                Draft kept in this browser ·{' '}
                <button className="underline underline-offset-4" onClick={() => drop(key)}>
                  discard
                </button>
              </>
            ) : on ? (
              'This is what rings'
            ) : (
              'Off: ring it once it is on'
            )}
          </span>
        </div>
      </section>
      <section aria-label="Live reach" className="border-line bg-sheet min-[1000px]:border-l">
        <ReachPane
          here={here}
          rule={rule}
          live={live}
          leaves={leaves}
          chosen={chosen}
          onChoose={setChosen}
          onThreshold={(path, value) =>
            change(
              { when: replaceAt(rule.when, path, { ...nodeAt(rule.when, path), value })! },
              `drag:${path.join('.')}`,
            )
          }
        />
      </section>
      {open === 'rehearsal' && <RehearsalDialog here={here} rule={rule} onClose={() => setOpen(null)} />}
      {open === 'ring' && <RingDialog here={here} card={card} onClose={() => setOpen(null)} />}
      {open === 'turnOn' && <TurnOnDialog here={here} card={card} rule={rule} onClose={() => setOpen(null)} />}
    </div>
  );
}

function IconButton(props: {
  readonly label: string;
  readonly disabled: boolean;
  readonly onClick: () => void;
  readonly children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={props.label}
      title={props.label}
      disabled={props.disabled}
      onClick={props.onClick}
      className="grid size-9 place-items-center rounded-lg hover:bg-line disabled:opacity-35"
    >
      {props.children}
    </button>
  );
}
