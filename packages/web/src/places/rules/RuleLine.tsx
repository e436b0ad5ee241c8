/** One rule of the list. */
import { copyName } from '../../ui/copyName.ts';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { DropdownMenu, Switch } from 'radix-ui';
import { Ellipsis, GripVertical } from 'lucide-react';
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { toast } from 'sonner';
import { plural } from '@zest-bell/core/time';
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
import { SetNote } from '../../parts/common/SetNote.tsx';
import { setPath } from '../../lib/sets.ts';
import { menuItem } from '../../ui/menu.ts';
import { RuleSentence } from './RuleSentence.tsx';
import { offWords, roundWords } from '../../lib/decisionWords.ts';
import { Allowed } from '../../ui/Allowed.tsx';

const TurnOnDialog = lazy(async () => ({ default: (await import('./TurnOnDialog.tsx')).TurnOnDialog }));

export function RuleLine(props: {
  readonly card: RuleCard;
  readonly here: CourseHere;
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
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition: transition }}
      className={`relative grid grid-cols-[auto_1fr] gap-x-3.5 rounded-[16px] border border-line bg-sheet py-4 pr-4 pl-2 min-[980px]:grid-cols-[auto_1fr_282px] ${isDragging ? 'z-10 shadow-(--shadow)' : ''}`}
    >
      <div className="flex items-start gap-1.5">
        <Allowed needs="rules.run">
          <button
            type="button"
            ref={setActivatorNodeRef}
            {...attributes}
            {...listeners}
            aria-label={`Move ${rule.name}: press Space to pick it up, arrow keys to move it`}
            title="Drag to change the order of rules"
            className="mt-0.5 grid h-7 w-5 cursor-grab touch-none place-items-center rounded text-ink-3/60 hover:bg-fog hover:text-ink"
          >
            <GripVertical size={16} aria-hidden />
          </button>
        </Allowed>
        <input
          type="checkbox"
          aria-label={`Choose ${rule.name}`}
          checked={props.picked}
          onChange={(e) => props.onPick(e.target.checked)}
          className="mt-[7px] size-4 accent-(--pine)"
        />
        {here.may('rules.run') ? (
          <Switch.Root
            checked={on}
            aria-label={`${rule.name}: ${on ? 'on' : 'off'}`}
            onCheckedChange={(next) =>
              next ? setAsking(true) : void attempt(() => setStatusWithUndo(here, [card], 'paused'))
            }
            className="mt-[3px] ml-1 h-6 w-11 rounded-full border border-line-strong bg-fog p-0.5 data-[state=checked]:border-pine data-[state=checked]:bg-pine"
          >
            <Switch.Thumb className="block size-[18px] rounded-full border border-line-strong bg-sheet transition-transform data-[state=checked]:translate-x-5 data-[state=checked]:border-transparent data-[state=checked]:bg-zest" />
          </Switch.Root>
        ) : (
          on && <Chip tone="quiet">on</Chip>
        )}
      </div>
      <div className="min-w-0">
        <h2 className="flex flex-wrap items-baseline gap-x-2.5 gap-y-1 text-[17px] font-bold">
          <Link to={to} className="break-words hover:underline">
            {rule.name}
          </Link>
          {rule.label && <span className="font-body text-[13px] font-normal text-ink-3">{rule.label}</span>}
          {!on && <Chip tone="quiet">{offWords(rule.status, card.wasOn)}</Chip>}
          {draft && !sameRule(draft.rule, rule) && <Chip tone="iris">unsaved changes</Chip>}
        </h2>
        <p className="mt-1 max-w-[70ch] text-[15.5px] leading-[1.6]">
          <RuleSentence rule={rule} course={here.course} />
        </p>
        {card.writesAs && (
          <p className="mt-0.5 text-[14px] text-ink-2">Writes as {card.writesAs.isYou ? 'you' : card.writesAs.name}</p>
        )}
        <SetNote course={here.id} kind="rule" of={rule.id} />
      </div>
      <Facts {...props} to={to} />
      {asking && (
        <Suspense>
          <TurnOnDialog here={here} card={card} rule={rule} onClose={() => setAsking(false)} />
        </Suspense>
      )}
    </li>
  );
}

/** When it ran and will run, and further actions. */
function Facts({ card, here, to }: { readonly card: RuleCard; readonly here: CourseHere; readonly to: string }) {
  const { rule, lastRound } = card;
  const zone = here.course.timeZone;
  const outcome = useOutcomes(here.id).data?.rules[rule.id];
  return (
    <div className="col-start-2 mt-3 text-[14px] text-ink-2 min-[980px]:col-start-3 min-[980px]:mt-0">
      <p>
        {lastRound ? (
          <>
            Last check <When at={lastRound.at} zone={zone} />
            {lastRound.trigger === 'ring' ? ' by hand' : lastRound.trigger === 'late' ? ', late' : ''}:
            <br />
            <Link to={`${to}/history`} className="font-semibold text-ink underline-offset-4 hover:underline">
              {roundWords(lastRound, tellsOthersOnly(rule))}
            </Link>
          </>
        ) : (
          'Has not run yet'
        )}
      </p>
      {outcome && (
        <p className="mt-1">
          <Link to={`/c/${here.id}/log?rule=${rule.id}`} className="underline-offset-4 hover:underline">
            {outcomeWords(outcome)}
          </Link>
        </p>
      )}
      <p className="mt-1">
        {card.cannotRun !== null ? (
          <strong className="font-semibold text-tangerine-text">▲ Cannot run: {card.cannotRun}</strong>
        ) : card.nextRoundAt !== null ? (
          <>
            Next check <When at={card.nextRoundAt} zone={zone} />
          </>
        ) : rule.status === 'on' ? (
          'No checks left'
        ) : (
          'Off'
        )}
      </p>
      <p className="mt-1.5 flex items-center gap-4">
        <Action to={`/c/${here.id}/log?rule=${rule.id}`}>{sentWords(card)}</Action>
        <More card={card} here={here} to={to} />
      </p>
    </div>
  );
}

const Action = ({ to, children }: { readonly to: string; readonly children: ReactNode }) => (
  <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={to}>
    {children}
  </Link>
);

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
    <>
      <button
        className="-my-1 py-1 font-semibold text-pine underline-offset-4 hover:underline"
        onClick={() => void copy(false)}
      >
        Copy
      </button>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label={`More about ${rule.name}`}
          className="ml-auto grid size-8 place-items-center rounded-lg hover:bg-fog"
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
    </>
  );
}

function sentWords({ rule, sentInAll, alertsInAll }: RuleCard): string {
  const nudges = `${plural(sentInAll, 'nudge')} sent`;
  if (alertsInAll === 0) return tellsOthersOnly(rule) ? 'no alerts sent' : nudges;
  const alerts = `${plural(alertsInAll, 'alert')} sent`;
  return sentInAll === 0 ? alerts : `${nudges}, ${alerts}`;
}
