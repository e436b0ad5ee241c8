import { repeatParts, type RepeatLimit } from '@zest-bell/core';
import { NumberField } from '../../ui/fields.tsx';
import { Part } from './Part.tsx';

/** How often one student hears from the rule: each limit a part of its own, all opening the same place. */
export function RepeatPart({
  repeat,
  onChange,
}: {
  readonly repeat: RepeatLimit;
  readonly onChange: (repeat: RepeatLimit, tag: string) => void;
}) {
  return repeatParts(repeat).map((words, i) => (
    <span key={i}>
      {i > 0 && ', '}
      <Part words={words} label="How often each hears it">
        <RepeatFields repeat={repeat} onChange={onChange} />
      </Part>
    </span>
  ));
}

function RepeatFields({
  repeat,
  onChange,
}: {
  readonly repeat: RepeatLimit;
  readonly onChange: (repeat: RepeatLimit, tag: string) => void;
}) {
  return (
    <>
      <NumberField
        label="In one spell, at most"
        unit="times"
        whole
        min={1}
        max={99}
        empty="no limit"
        value={repeat.perSpell}
        onChange={(perSpell) => onChange({ ...repeat, perSpell }, 'perSpell')}
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
        onChange={(perTerm) => onChange({ ...repeat, perTerm }, 'perTerm')}
      />
      <NumberField
        label="Never again within"
        unit="days"
        whole
        min={1}
        max={120}
        empty="no limit"
        value={repeat.gap?.days ?? null}
        onChange={(days) => onChange({ ...repeat, gap: days === null ? null : { days, hours: 0 } }, 'gap')}
      />
    </>
  );
}
