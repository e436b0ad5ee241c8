import { repeatParts, type RepeatLimit, type Rule } from '@zest-bell/core';
import { Check, NumberField } from '../../ui/fields.tsx';
import { Part } from './Part.tsx';
import { Pill } from '../../ui/Pill.tsx';

interface RepeatProps {
  readonly rule: Pick<Rule, 'repeat' | 'essential'>;
  readonly onChange: (change: Partial<Rule>, tag: string) => void;
}

/** How often one student hears from the rule: each limit a part of its own, all opening the same place. */
export function RepeatPart({ rule, onChange }: RepeatProps) {
  return repeatParts(rule.repeat).map((words, i) => (
    <span key={i}>
      {i > 0 && ', '}
      <Part words={words} label="How often each hears it">
        <RepeatFields rule={rule} onChange={onChange} />
      </Part>
    </span>
  ));
}

const PLAIN: readonly { readonly words: string; readonly repeat: RepeatLimit }[] = [
  { words: 'once a spell', repeat: { perSpell: 1, perTerm: null, gap: null } },
  { words: 'once', repeat: { perSpell: null, perTerm: 1, gap: null } },
  { words: 'every round', repeat: { perSpell: null, perTerm: null, gap: null } },
];

function RepeatFields({ rule, onChange }: RepeatProps) {
  const { repeat } = rule;
  const set = (next: Partial<RepeatLimit>, tag: string) => onChange({ repeat: { ...repeat, ...next } }, tag);
  return (
    <>
      <div className="flex flex-wrap gap-1.5" role="group" aria-label="Common choices">
        {PLAIN.map((p) => (
          <Pill
            key={p.words}
            pressed={JSON.stringify(p.repeat) === JSON.stringify(repeat)}
            onClick={() => set(p.repeat, 'plain')}
          >
            {p.words}
          </Pill>
        ))}
      </div>
      <NumberField
        label="In one spell, each step at most"
        unit="times"
        whole
        min={1}
        max={99}
        empty="no limit"
        value={repeat.perSpell}
        onChange={(perSpell) => set({ perSpell }, 'perSpell')}
      />
      <p className="-mt-2 text-[13px] text-ink-2">
        A spell is an unbroken stretch in which the student meets the condition. Who comes back and relapses starts a
        new one.
      </p>
      <NumberField
        label="In the whole term, at most"
        unit="times"
        whole
        min={1}
        max={99}
        empty="no limit"
        value={repeat.perTerm}
        onChange={(perTerm) => set({ perTerm }, 'perTerm')}
      />
      <NumberField
        label="Never again within"
        unit="days"
        whole
        min={1}
        max={120}
        empty="no limit"
        value={repeat.gap?.days ?? null}
        onChange={(days) => set({ gap: days === null ? null : { days, hours: 0 } }, 'gap')}
      />
      <p className="text-[13px] text-ink-2">All that is set here holds together; empty means no limit.</p>
      <Check
        label="Essential: passes the message budget, and reaches students who paused nudges"
        checked={rule.essential}
        onChange={(essential) => onChange({ essential }, 'essential')}
      />
    </>
  );
}
