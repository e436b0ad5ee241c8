/** One step, as it would begin for the first who would read it. */
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { Popover } from 'radix-ui';
import { Markable } from '../../../ui/Markable.tsx';
import { Pop } from '../../../ui/Pop.tsx';
import { X } from 'lucide-react';
import { DAYS_RANGE, durationWords, HOURS_RANGE } from '@zest-bell/core/time';
import type { Rule, Step } from '@zest-bell/core/rules';
import { misfits, textsOf } from '@zest-bell/core/wording';
import type { WordingAnswer } from '@zest-bell/core/exchange';
import { attempt } from '../../../lib/attempt.ts';
import { useWordings } from '../../../lib/queries.ts';
import { copyName } from '../../../ui/copyName.ts';
import { createRule } from '../../../lib/ruleActions.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { Button } from '../../../ui/Button.tsx';
import { NumberField } from '../../../ui/fields.tsx';
import { spoken } from '../../../parts/wording/spoken.ts';
import { usePreview } from '../../../parts/messages/usePreview.ts';
import { WordingDialog } from '../../../parts/wording/WordingDialog.tsx';
import { RecipientsPart } from '../../../parts/rule/RecipientsPart.tsx';

interface StepLineProps {
  readonly here: CourseHere;
  readonly step: Step;
  readonly place: number;
  /** The step above, before which this one cannot come. */
  readonly before: Step | null;
  /** The rule as it is in the composer, for its merge fields and whom it would reach. */
  readonly rule: Rule;
  /** Whom a preview is for. */
  readonly student: string | null;
  readonly onChange: (step: Step, tag?: string) => void;
  readonly onRemove: (() => void) | null;
}

export function StepLine(props: StepLineProps) {
  const { here, step, place, rule, student, onChange, onRemove } = props;
  const wordings = useWordings(here.id);
  const [editing, setEditing] = useState<WordingAnswer | null>(null);
  const chosen = wordings.data?.find((w) => w.id === step.wording);
  // The rule may have been changed since its text was written.
  const misfit = useMemo(() => {
    if (!chosen) return null;
    const texts = textsOf(chosen).map((text) => ({ ...text, id: chosen.id, purpose: chosen.purpose }));
    return texts.flatMap((words) => misfits(words, { course: here.course, rules: [rule] }))[0] ?? null;
  }, [chosen, here.course, rule]);
  const navigate = useNavigate();
  const apart = async () => {
    const others = { ...step, to: step.to.filter((r) => r !== 'student'), together: true };
    const name = copyName(`${rule.name}: tell others`, 120);
    const made = await attempt(() => createRule(here, { ...rule, name, status: 'draft', steps: [others] }));
    if (!made) return;
    onChange({ ...step, to: ['student'] });
    toast('A rule that tells the others is here as a draft. Turn it on when it fits.', {
      action: { label: 'Open it', onClick: () => void navigate(`/c/${here.id}/rules/${made.rule.id}`) },
    });
  };
  const opening = usePreview(here, chosen, student, { when: rule.when }).data?.message.text.replace(/\s+/g, ' ');
  return (
    <li
      className="grid grid-cols-[84px_1fr] max-[559px]:grid-cols-1 border-t border-line py-3 text-[15px]"
      aria-label={`Step ${place + 1}`}
    >
      <AfterPart {...props} />
      <div className="min-w-0">
        <div className="flex items-start gap-2">
          <p className="min-w-0 flex-1 leading-relaxed">
            {step.deliver === 'send' ? 'Send' : 'Hold'}{' '}
            <WordingPart
              step={step}
              wordings={wordings.data ?? []}
              onChange={onChange}
              onEdit={chosen ? () => setEditing(chosen) : null}
            />{' '}
            to <RecipientsPart here={here} step={step} onChange={onChange} onApart={() => void apart()} />{' '}
            <DeliverPart step={step} onChange={onChange} />
          </p>
          {onRemove && (
            <button
              type="button"
              aria-label={`Remove step ${place + 1}`}
              title="Remove this step"
              onClick={onRemove}
              className="grid size-7 place-items-center rounded-lg text-ink-3 hover:bg-fog hover:text-ink"
            >
              <X size={16} aria-hidden />
            </button>
          )}
        </div>
        {opening && (
          <p className="mt-0.5 line-clamp-2 text-[14px] text-ink-2">
            {student === null && 'As a student would read it: '}“{opening}”
          </p>
        )}
      </div>
      {misfit && (
        <p className="col-start-2 mt-1 text-[14px] text-tangerine-text" role="note">
          ▲ {misfit.message}.{' '}
          <button
            type="button"
            className="font-semibold underline underline-offset-4"
            onClick={() => setEditing(chosen!)}
          >
            Change the text
          </button>
        </p>
      )}
      {editing && (
        <WordingDialog here={here} wording={editing} rule={rule} student={student} onClose={() => setEditing(null)} />
      )}
    </li>
  );
}

/** How long after the student began to meet the condition. */
function AfterPart({ step, place, before, onChange }: StepLineProps) {
  const { days, hours } = step.after;
  const wait = durationWords(step.after);
  const words = wait === 'at once' ? wait : `+${wait.replace(' and ', ' ')}`;
  const least = before?.after ?? { days: 0, hours: 0 };
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`Step ${place + 1} comes ${wait}`}
        className="h-7 justify-self-start rounded pr-2 text-left font-num text-[14px] leading-tight font-bold text-pine underline decoration-dotted underline-offset-4 hover:decoration-solid"
      >
        {words}
      </Popover.Trigger>
      <Pop label="When it comes" className="grid gap-3 p-4 w-[320px]">
        <p className="text-[14px] text-ink-2">
          Counted from when the student began to match. Days do not count breaks; hours are exact.
        </p>
        <div className="flex gap-3">
          <NumberField
            label="days"
            {...DAYS_RANGE}
            min={least.days}
            value={days}
            onChange={(n) => n !== null && onChange({ ...step, after: { days: n, hours } }, 'after')}
          />
          <NumberField
            label="and hours"
            {...HOURS_RANGE}
            min={least.hours}
            value={hours}
            onChange={(n) => n !== null && onChange({ ...step, after: { days, hours: n } }, 'after')}
          />
        </div>
        {before && (
          <p className="text-[14px]">
            {days === least.days && hours === least.hours
              ? 'At the next check after the step before.'
              : `${durationWords({ days: days - least.days, hours: hours - least.hours })} after the step before, even if that one came late.`}
          </p>
        )}
      </Pop>
    </Popover.Root>
  );
}

function WordingPart(props: {
  readonly step: Step;
  readonly wordings: readonly WordingAnswer[];
  readonly onChange: (step: Step) => void;
  readonly onEdit: (() => void) | null;
}) {
  const { step, wordings, onChange, onEdit } = props;
  const name = wordings.find((w) => w.id === step.wording)?.name ?? step.wording;
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Markable label={`Wording: ${name}`}>{name}</Markable>
      </Popover.Trigger>
      <Pop label="Wording" className="w-[340px] p-2">
        <ul className="max-h-[320px] overflow-auto">
          {wordings.map((w) => (
            <li key={w.id}>
              <Popover.Close
                aria-pressed={w.id === step.wording}
                onClick={() => onChange({ ...step, wording: w.id })}
                className="w-full rounded-lg px-3 py-2 text-left hover:bg-fog aria-pressed:bg-zest-soft"
              >
                <strong>{w.name}</strong>
                <span className="block truncate text-[13px] text-ink-2">{spoken(w.subject)}</span>
              </Popover.Close>
            </li>
          ))}
        </ul>
        {onEdit && (
          <Popover.Close asChild>
            <Button className="mt-2 w-full" onClick={onEdit}>
              Change the text …
            </Button>
          </Popover.Close>
        )}
      </Pop>
    </Popover.Root>
  );
}

const DELIVERIES = [
  { deliver: 'send', words: 'sent automatically', help: 'It leaves at the check, or when quiet hours end.' },
  {
    deliver: 'hold',
    words: 'waits for you',
    help: 'It waits, with the reason beside it, until you send or dismiss it.',
  },
] as const;

function DeliverPart({ step, onChange }: { readonly step: Step; readonly onChange: (step: Step) => void }) {
  const chosen = DELIVERIES.find((d) => d.deliver === step.deliver)!;
  const tone = step.deliver === 'send' ? 'bg-zest-soft text-ink' : 'bg-iris-soft text-iris';
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={`Delivery: ${chosen.words}`}
        className={`rounded-full px-2.5 py-0.5 text-[13px] font-semibold whitespace-nowrap hover:underline ${tone}`}
      >
        {chosen.words}
      </Popover.Trigger>
      <Pop label="Delivery" className="w-[320px] p-2">
        {DELIVERIES.map((d) => (
          <Popover.Close
            key={d.deliver}
            aria-pressed={d.deliver === step.deliver}
            onClick={() => onChange({ ...step, deliver: d.deliver })}
            className="w-full rounded-lg px-3 py-2 text-left hover:bg-fog aria-pressed:bg-zest-soft"
          >
            <strong className="first-letter:uppercase">{d.words}</strong>
            <span className="block text-[13px] text-ink-2">{d.help}</span>
          </Popover.Close>
        ))}
      </Pop>
    </Popover.Root>
  );
}
