/** One rule of the list. */
import { copyName } from '../../ui/copyName.ts';
import { lazy, Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { DropdownMenu, Switch } from 'radix-ui';
import { Copy, Ellipsis, GripVertical } from 'lucide-react';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { toast } from 'sonner';
import { dayWords, plural } from '@zest-bell/core/time';
import { tellsOthersOnly } from '@zest-bell/core/rules';
import type { RuleCard } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { Chip } from '../../ui/Chip.tsx';
import { When } from '../../ui/When.tsx';
import { attempt } from '../../lib/attempt.ts';
import { outcomeWords } from '../../lib/outcomeWords.ts';
import { useOutcomes } from '../../lib/queries.ts';
import { archiveWithUndo, createRule, setStatusWithUndo, writeAs } from '../../lib/ruleActions.ts';
import { draftKey, sameRule, useDrafts } from '../../parts/rule/draft.ts';
import { OutcomeFigures, outcomeFigures } from '../../parts/common/OutcomeFigures.tsx';
import { SetNote } from '../../parts/common/SetNote.tsx';
import { setPath } from '../../lib/sets.ts';
import { menuItem } from '../../ui/menu.ts';
import { RuleInBrief, RuleSentence } from '../../parts/rule/RuleSentence.tsx';
import { offWords, roundWords } from '../../lib/decisionWords.ts';
import { Allowed } from '../../ui/Allowed.tsx';

const TurnOnDialog = lazy(async () => ({ default: (await import('./TurnOnDialog.tsx')).TurnOnDialog }));

export function RuleLine(props: {
  readonly card: RuleCard;
  readonly here: CourseHere;
  readonly matching: number | null | undefined;
  readonly picked: boolean;
  readonly onPick: (yes: boolean) => void;
}) {
  const { card, here } = props;
  const { rule } = card;
  const [asking, setAsking] = useState(false);
  const draft = useDrafts((s) => s.drafts[draftKey(here.id, rule.id)]);
  const { setNodeRef, setActivatorNodeRef, attributes, listeners, transform, transition, isDragging } = useSortable({
    id: rule.id,
  });
  const on = rule.status === 'on';
  const to = `/c/${here.id}/rules/${rule.id}`;
  const [isOpen, setOpen] = useState(false);
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition: transition }}
      className={`relative border-t border-line bg-sheet first:border-t-0 ${RULE_ROW} ${isDragging ? 'z-10 shadow-(--shadow)' : ''}`}
    >
      <div className="flex items-center gap-1.5 self-start pt-0.5 min-[980px]:self-center min-[980px]:pt-0">
        <Allowed needs="rules.run">
          <button
            type="button"
            ref={setActivatorNodeRef}
            {...attributes}
            {...listeners}
            aria-label={`Move ${rule.name}: press Space to pick it up, arrow keys to move it`}
            title="Drag to change the order of rules"
            className="grid h-7 w-5 cursor-grab touch-none place-items-center rounded text-ink-3 hover:bg-fog hover:text-ink"
          >
            <GripVertical size={16} aria-hidden />
          </button>
        </Allowed>
        <input
          type="checkbox"
          aria-label={`Choose ${rule.name}`}
          checked={props.picked}
          onChange={(e) => props.onPick(e.target.checked)}
          className="size-4 accent-(--pine)"
        />
        {here.may('rules.run') ? (
          <Switch.Root
            checked={on}
            aria-label={`${rule.name}: ${on ? 'on' : 'off'}`}
            onCheckedChange={(next) =>
              next ? setAsking(true) : void attempt(() => setStatusWithUndo(here, [card], 'paused'))
            }
            className="ml-1 h-6 w-11 rounded-full border border-line-strong bg-fog p-0.5 data-[state=checked]:border-pine data-[state=checked]:bg-pine"
          >
            <Switch.Thumb className="block size-[18px] rounded-full border border-line-strong bg-sheet transition-transform data-[state=checked]:translate-x-5 data-[state=checked]:border-transparent data-[state=checked]:bg-zest" />
          </Switch.Root>
        ) : (
          on && <Chip tone="quiet">on</Chip>
        )}
      </div>
      <div className="min-w-0">
        <div className="flex items-baseline gap-x-2.5 max-[559px]:flex-wrap">
          <h2 className="flex min-w-0 items-baseline gap-x-2.5 text-[16px] leading-[24px] font-bold max-[559px]:flex-wrap">
            <Link to={to} className="hover:underline min-[560px]:truncate">
              {rule.name}
            </Link>
            {rule.label && (
              <span className="font-body text-[13px] font-normal whitespace-nowrap text-ink-3">{rule.label}</span>
            )}
            {!on && <Chip tone="quiet">{offWords(rule.status, card.wasOn)}</Chip>}
            {draft && !sameRule(draft.rule, rule) && <Chip tone="iris">unsaved changes</Chip>}
          </h2>
          <SetNote course={here.id} kind="rule" of={rule.id} beside />
        </div>
        <button
          type="button"
          aria-expanded={isOpen}
          title={isOpen ? undefined : 'Show the whole sentence'}
          className={`block w-full text-left text-[14.5px] leading-[22px] text-ink-2 ${isOpen ? '' : 'truncate'}`}
          onClick={() => setOpen(!isOpen)}
        >
          {isOpen ? (
            <RuleSentence rule={rule} course={here.course} marks="condition" />
          ) : (
            <RuleInBrief rule={rule} course={here.course} />
          )}
        </button>
        {card.writesAs && (
          <p className="text-[13px] text-ink-2">Writes as {card.writesAs.isYou ? 'you' : card.writesAs.name}</p>
        )}
      </div>
      <Facts {...props} to={to} />
      <More card={card} here={here} to={to} />
      {asking && (
        <Suspense>
          <TurnOnDialog here={here} card={card} rule={rule} onClose={() => setAsking(false)} />
        </Suspense>
      )}
    </li>
  );
}

/** The columns of a rule: how to turn it on, what it is, whom it finds, its checks, what came of it, and further actions. */
export const RULE_ROW =
  'grid grid-cols-[auto_minmax(0,1fr)_auto] items-center gap-x-3.5 gap-y-1 px-3 py-2 min-[980px]:min-h-[72px] min-[980px]:grid-cols-[auto_minmax(0,1fr)_48px_290px_40px_48px_56px_auto]';

/** Whom it finds now, when it ran and will run, and what came of it. */
function Facts(props: {
  readonly card: RuleCard;
  readonly here: CourseHere;
  /** How many students match it now; undefined until that is known, null where it cannot be. */
  readonly matching: number | null | undefined;
  readonly to: string;
}) {
  const { card, here, to } = props;
  const { rule, lastRound } = card;
  const zone = here.course.timeZone;
  const outcome = useOutcomes(here.id).data?.rules[rule.id];
  const log = `/c/${here.id}/log?rule=${rule.id}`;
  const matching = props.matching === undefined ? '…' : (props.matching ?? '–');
  const cell = 'text-right text-[15px] tabular-nums max-[979px]:hidden';
  return (
    <>
      <Link to={to} className={`${cell} font-semibold hover:underline`} data-testid="matches-now">
        {matching}
      </Link>
      <div className="min-w-0 text-[13px] leading-[18px] text-ink-2 max-[979px]:col-span-2 max-[979px]:col-start-2 max-[979px]:row-start-2">
        <p className={card.cannotRun === null ? 'truncate' : ''}>
          {card.cannotRun !== null ? (
            <strong className="font-semibold text-tangerine-text">▲ Cannot run: {card.cannotRun}</strong>
          ) : card.nextRoundAt !== null ? (
            <span className="text-ink">
              <span className="min-[980px]:sr-only">Next check </span>
              <When at={card.nextRoundAt} zone={zone} />
            </span>
          ) : rule.status === 'on' ? (
            'No checks left'
          ) : (
            'Off'
          )}
        </p>
        {lastRound ? (
          <Link to={`${to}/history`} className="line-clamp-2 underline-offset-4 hover:underline">
            Last check <When at={lastRound.at} zone={zone} words={dayWords} />
            {lastRound.trigger === 'ring' ? ' by hand' : lastRound.trigger === 'late' ? ', late' : ''}:{' '}
            {roundWords(lastRound, tellsOthersOnly(rule))}
          </Link>
        ) : (
          <p>Has not run yet</p>
        )}
        <p className="flex flex-wrap gap-x-3 min-[980px]:hidden">
          <span>{matching} match now</span>
          {outcome && <OutcomeFigures of={outcome} />}
        </p>
      </div>
      {outcome ? (
        outcomeFigures(outcome).map(([name, figure]) => (
          <Link key={name} to={log} title={`${outcomeWords(outcome)}.`} className={`${cell} hover:underline`}>
            <span className="sr-only">{name} </span>
            {figure}
          </Link>
        ))
      ) : (
        <>
          <Link to={log} title={sentWords(card)} className={`${cell} hover:underline`}>
            <span className="sr-only">Sent </span>
            {card.sentInAll + card.alertsInAll}
          </Link>
          <span aria-hidden className={cell}>
            –
          </span>
          <span aria-hidden className={cell}>
            –
          </span>
        </>
      )}
    </>
  );
}

function More({ card, here, to }: { readonly card: RuleCard; readonly here: CourseHere; readonly to: string }) {
  const navigate = useNavigate();
  const { rule } = card;
  const copy = async (thenNumbers: boolean) => {
    const made = await attempt(() => createRule(here, { ...rule, name: copyName(rule.name, 120) }));
    if (!made) return;
    const path = `/c/${here.id}/rules/${made.rule.id}`;
    if (thenNumbers) return navigate(`${path}?numbers`);
    toast('This is the copy. It looks for the same students as the original, and is off until you turn it on.');
    await navigate(path);
  };
  return (
    <span className="flex self-start min-[980px]:self-center">
      <button
        type="button"
        aria-label={`Copy ${rule.name}`}
        title="Copy"
        className="grid size-8 place-items-center rounded-lg hover:bg-fog"
        onClick={() => void copy(false)}
      >
        <Copy size={16} aria-hidden />
      </button>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`More about ${rule.name}`}
          className="grid size-8 place-items-center rounded-lg hover:bg-fog"
        >
          <Ellipsis size={17} aria-hidden />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={4} className="pop z-50 min-w-60 p-1.5">
            <DropdownMenu.Item asChild className={menuItem}>
              <Link to={`${to}/history`}>Past checks and versions</Link>
            </DropdownMenu.Item>
            <DropdownMenu.Item asChild className={menuItem}>
              <Link to={setPath(here.id, 'rule', rule.id)}>Use in other courses …</Link>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={() => void copy(true)}>
              Copy and change numbers …
            </DropdownMenu.Item>
            {here.may('rules.run') && here.answer.own !== null && !card.writesAs?.isYou && (
              <DropdownMenu.Item className={menuItem} onSelect={() => void attempt(() => writeAs(here, card, 'me'))}>
                Write as me
              </DropdownMenu.Item>
            )}
            {here.may('rules.run') && card.writesAs && (
              <DropdownMenu.Item
                className={menuItem}
                onSelect={() => void attempt(() => writeAs(here, card, 'course'))}
              >
                Write as {here.answer.sender.name}
              </DropdownMenu.Item>
            )}
            {here.may('rules.run') && (
              <DropdownMenu.Item className={menuItem} onSelect={() => void attempt(() => archiveWithUndo(here, card))}>
                Archive
              </DropdownMenu.Item>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </span>
  );
}

function sentWords({ rule, sentInAll, alertsInAll }: RuleCard): string {
  const nudges = `${plural(sentInAll, 'nudge')} sent`;
  if (alertsInAll === 0) return tellsOthersOnly(rule) ? 'no alerts sent' : nudges;
  const alerts = `${plural(alertsInAll, 'alert')} sent`;
  return sentInAll === 0 ? alerts : `${nudges}, ${alerts}`;
}
