import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { Switch } from 'radix-ui';
import { toast } from 'sonner';
import { plural, type RuleCard } from '@zest-bell/core';
import { useHere, type Here } from '../app/here.ts';
import { useRules, useWordings } from '../app/queries.ts';
import { Button } from '../ui/Button.tsx';
import { Chip } from '../ui/Chip.tsx';
import { Empty, Failed, Loading } from '../ui/States.tsx';
import { When } from '../ui/When.tsx';
import { attempt, createRule, setStatusWithUndo } from './actions.ts';
import { newRule } from './defaults.ts';
import { draftKey, sameRule, useDrafts } from './draft.ts';
import { RuleSentence } from './RuleSentence.tsx';
import { roundWords } from './words.ts';

/** Only needed once somebody turns a rule on: kept out of the first load. */
const TurnOnDialog = lazy(async () => ({ default: (await import('./TurnOnDialog.tsx')).TurnOnDialog }));

export function RulesPage() {
  const here = useHere();
  const rules = useRules(here.id);
  const wordings = useWordings(here.id);
  const navigate = useNavigate();
  const [busy, setBusy] = useState(false);

  const begin = async () => {
    const wording = wordings.data?.[0];
    if (!wording) return;
    setBusy(true);
    const card = await attempt(() => createRule(here, newRule(here.course, here.now, wording.id)));
    setBusy(false);
    if (card) void navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };

  if (rules.isPending) return <Loading what="the rules" />;
  if (rules.isError) return <Failed error={rules.error} retry={() => void rules.refetch()} />;
  const on = rules.data.filter((c) => c.rule.status === 'on').length;
  return (
    <div className="mx-auto w-full max-w-[1240px] px-5 py-6">
      <div className="mb-5 flex flex-wrap items-end gap-x-4 gap-y-2">
        <div>
          <h1 className="text-[28px] leading-tight font-bold">Rules</h1>
          <p className="text-ink-2">
            {plural(rules.data.length, 'rule')}, {on} on. They decide in this order when they look at the same moment.
          </p>
        </div>
        <Button
          look="main"
          className="ml-auto"
          busy={busy}
          disabled={!wordings.data?.length}
          onClick={() => void begin()}
        >
          New rule
        </Button>
      </div>
      {rules.data.length === 0 ? (
        <Empty title="No rule yet">Say who should hear from you, when to look, and what to say.</Empty>
      ) : (
        <ul className="grid gap-3">
          {rules.data.map((card) => (
            <RuleLine key={card.rule.id} card={card} here={here} />
          ))}
        </ul>
      )}
    </div>
  );
}

function RuleLine({ card, here }: { readonly card: RuleCard; readonly here: Here }) {
  const { rule } = card;
  const navigate = useNavigate();
  const [asking, setAsking] = useState(false);
  const draft = useDrafts((s) => s.drafts[draftKey(here.id, rule.id)]);
  const on = rule.status === 'on';
  const to = `/c/${here.id}/rules/${rule.id}`;

  const copy = async () => {
    const made = await attempt(() => createRule(here, { ...rule, name: `${rule.name} (copy)`.slice(0, 120) }));
    if (!made) return;
    toast('Copied. The copy is off until you turn it on.', {
      action: { label: 'Open it', onClick: () => void navigate(`/c/${here.id}/rules/${made.rule.id}`) },
    });
  };

  return (
    <li className="grid grid-cols-[auto_1fr] gap-x-4 rounded-[16px] border border-line bg-sheet px-5 py-4 min-[980px]:grid-cols-[auto_1fr_270px]">
      <Switch.Root
        checked={on}
        aria-label={`${rule.name}: ${on ? 'on' : 'off'}`}
        onCheckedChange={(next) =>
          next ? setAsking(true) : void attempt(() => setStatusWithUndo(here, [card], 'paused'))
        }
        className="mt-1 h-6 w-11 rounded-full border border-line-strong bg-fog p-0.5 data-[state=checked]:border-pine data-[state=checked]:bg-pine"
      >
        <Switch.Thumb className="block size-[18px] rounded-full border border-line-strong bg-sheet transition-transform data-[state=checked]:translate-x-5 data-[state=checked]:border-transparent data-[state=checked]:bg-zest" />
      </Switch.Root>
      <div className="min-w-0">
        <h2 className="flex flex-wrap items-baseline gap-x-2.5 gap-y-1 text-[17px] font-bold">
          <Link to={to} className="break-words hover:underline">
            {rule.name}
          </Link>
          {rule.label && <span className="font-body text-[13px] font-normal text-ink-3">{rule.label}</span>}
          {!on && <Chip tone="quiet">{rule.status === 'draft' ? 'draft' : 'paused'}</Chip>}
          {draft && !sameRule(draft.rule, rule) && <Chip tone="iris">unsaved changes</Chip>}
        </h2>
        <p className="mt-1 max-w-[70ch] text-[15.5px] leading-[1.6]">
          <RuleSentence rule={rule} course={here.course} />
        </p>
      </div>
      <div className="col-start-2 mt-3 text-[14px] text-ink-2 min-[980px]:col-start-3 min-[980px]:mt-0">
        <p>
          {card.lastRound ? (
            <>
              Rang <When at={card.lastRound.at} zone={here.course.timeZone} />
              {card.lastRound.trigger === 'ring' ? ' by hand' : card.lastRound.trigger === 'late' ? ', late' : ''}:{' '}
              <strong className="text-ink">{roundWords(card.lastRound)}</strong>
            </>
          ) : (
            'Has not rung yet'
          )}
        </p>
        <p className="mt-1">
          {card.nextRoundAt !== null ? (
            <>
              Next <When at={card.nextRoundAt} zone={here.course.timeZone} />
            </>
          ) : on ? (
            'No round left in its run'
          ) : (
            'Off: sends nothing'
          )}
        </p>
        <p className="mt-1.5 flex gap-4">
          <Link
            className="font-semibold text-pine underline-offset-4 hover:underline"
            to={`/c/${here.id}/log?rule=${rule.id}`}
          >
            {plural(card.sentInAll, 'nudge')} sent
          </Link>
          <button className="font-semibold text-pine underline-offset-4 hover:underline" onClick={() => void copy()}>
            Copy
          </button>
        </p>
      </div>
      {asking && (
        <Suspense>
          <TurnOnDialog here={here} card={card} rule={rule} onClose={() => setAsking(false)} />
        </Suspense>
      )}
    </li>
  );
}
