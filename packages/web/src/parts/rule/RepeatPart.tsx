import type { Course } from '@zest-bell/core/course';
import { withLimits } from '@zest-bell/core/saying';
import { DAYS_RANGE } from '@zest-bell/core/time';
import { RULE_WEIGHTS, TIMES_RANGE, type RepeatLimit, type Rule, type RuleWeight } from '@zest-bell/core/rules';
import { Check, NumberField } from '../../ui/fields.tsx';
import { Part } from '../../ui/Part.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { SayPart } from '../saying/SayPart.tsx';

interface RepeatProps {
  readonly course: Course;
  readonly rule: Pick<Rule, 'repeat' | 'essential' | 'weight'>;
  readonly onChange: (change: Partial<Rule>, tag: string) => void;
}

/** How often one student is nudged by the rule, or how much it weighs: the words of either open the same place. */
export function RepeatPart({
  words,
  course,
  rule,
  onChange,
  open = false,
}: RepeatProps & { readonly words: string; readonly open?: boolean }) {
  return (
    <Part words={words} label="How often each student is nudged" open={open}>
      <RepeatFields course={course} rule={rule} onChange={onChange} />
    </Part>
  );
}

const WEIGHT_WORDS: Readonly<Record<RuleWeight, string>> = { light: 'low', normal: 'normal', strong: 'high' };

const WEIGHT_HELP: Readonly<Record<RuleWeight, string>> = {
  light: 'For reminders and praise. Any other nudge may use up a student’s message budget before it.',
  normal: 'Low-priority reminders never use up the message budget before it. All other nudges can.',
  strong:
    'For what matters most, such as a student who is gone or failing. Only other high-priority messages can use up the budget before it.',
};

const PLAIN: readonly { readonly words: string; readonly repeat: RepeatLimit }[] = [
  { words: 'once each time', repeat: { perSpell: 1, perTerm: null, gap: null } },
  { words: 'once this term', repeat: { perSpell: null, perTerm: 1, gap: null } },
  { words: 'at every check', repeat: { perSpell: null, perTerm: null, gap: null } },
];

const isSameLimit = (a: RepeatLimit, b: RepeatLimit): boolean =>
  JSON.stringify([a.perSpell, a.perTerm, a.gap]) === JSON.stringify([b.perSpell, b.perTerm, b.gap]);

function RepeatFields({ course, rule, onChange }: RepeatProps) {
  const { repeat } = rule;
  const set = (next: Partial<RepeatLimit>, tag: string) => onChange({ repeat: { ...repeat, ...next } }, tag);
  return (
    <>
      <SayPart
        course={course}
        label="Type how often"
        placeholder="at most once a week, until they reply"
        takes={['repeat', 'weight']}
        onTake={(said) => {
          const limits = said.repeat && { repeat: withLimits(repeat, said.repeat) };
          onChange({ ...limits, ...(said.weight && { weight: said.weight }) }, 'said');
        }}
      />
      <div className="flex flex-wrap gap-1.5" role="group" aria-label="Common choices">
        {PLAIN.map((p) => (
          <Pill key={p.words} pressed={isSameLimit(p.repeat, repeat)} onClick={() => set(p.repeat, 'plain')}>
            {p.words}
          </Pill>
        ))}
      </div>
      <p className="text-[13.5px] font-semibold">At most</p>
      <div className="-mt-3 grid grid-cols-2 gap-3">
        <NumberField
          label="Each time, each step"
          unit="times"
          {...TIMES_RANGE}
          empty="no limit"
          value={repeat.perSpell}
          onChange={(perSpell) => set({ perSpell }, 'perSpell')}
        />
        <NumberField
          label="In the whole term"
          unit="times"
          {...TIMES_RANGE}
          empty="no limit"
          value={repeat.perTerm}
          onChange={(perTerm) => set({ perTerm }, 'perTerm')}
        />
      </div>
      <p className="-mt-2 text-[13px] text-ink-2">
        A time lasts until the student no longer matches. A student who comes back and later matches again starts a new
        time.
      </p>
      <NumberField
        label="Wait between nudges: at least"
        unit="days"
        {...DAYS_RANGE}
        empty="no limit"
        value={repeat.gap?.days ?? null}
        onChange={(days) => set({ gap: days === null ? null : { days, hours: repeat.gap?.hours ?? 0 } }, 'gap')}
      />
      <p className="text-[13px] text-ink-2">All of these limits apply. Leave one empty for no limit.</p>
      <Check
        label="Stop once the student replies to a nudge of this rule, until the student matches anew"
        checked={repeat.untilReply === true}
        onChange={(stops) => set({ untilReply: stops || undefined }, 'untilReply')}
      />
      <div className="grid gap-1.5">
        <p className="text-[13.5px] font-semibold">Priority: which message comes first</p>
        <div className="flex flex-wrap gap-1.5" role="group" aria-label="Priority">
          {RULE_WEIGHTS.map((weight) => (
            <Pill key={weight} pressed={rule.weight === weight} onClick={() => onChange({ weight }, 'weight')}>
              {WEIGHT_WORDS[weight]}
            </Pill>
          ))}
        </div>
        <p className="text-[13px] text-ink-2">{WEIGHT_HELP[rule.weight]}</p>
      </div>
      <Check
        label="Essential: ignores the message budget and reaches students who paused nudges"
        checked={rule.essential}
        onChange={(essential) => onChange({ essential }, 'essential')}
      />
    </>
  );
}
