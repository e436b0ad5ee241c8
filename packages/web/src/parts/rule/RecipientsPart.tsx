/** Whom a step writes to about a student: one message each, never two people together. */
import { useState } from 'react';
import { plural } from '@zest-bell/core/time';
import { domainsOf, isActiveStudent } from '@zest-bell/core/course';
import { isAlert, recipientWords, type RecipientSpec, type Step } from '@zest-bell/core/rules';
import { isInside } from '@zest-bell/core/rounds';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Check, Labelled } from '../../ui/fields.tsx';
import { Part } from '../../ui/Part.tsx';

export function RecipientsPart({
  here,
  step,
  onChange,
  onApart,
}: {
  readonly here: CourseHere;
  readonly step: Step;
  readonly onChange: (step: Step) => void;
  /** Makes a rule that tells the others whatever limits say of the student. */
  readonly onApart: () => void;
}) {
  const students = here.course.people.filter(isActiveStudent);
  const kinds = [...new Set(students.flatMap((p) => p.contacts.map((c) => c.kind)))].sort();
  const toggle = (spec: RecipientSpec, on: boolean) => {
    const to = on ? [...step.to, spec] : step.to.filter((r) => r !== spec);
    // A step writes to somebody; the student first.
    if (to.length === 0) return;
    const sorted = to.sort((a, b) => Number(b === 'student') - Number(a === 'student'));
    onChange({ ...step, to: sorted, together: step.together === true && !sorted.includes('student') });
  };
  const addresses = step.to.filter((r) => r.startsWith('address:'));
  const withContact = (kind: string) => students.filter((p) => p.contacts.some((c) => c.kind === kind && c.email));
  return (
    <Part words={`${recipientWords(step.to)}${step.together ? ', in one message' : ''}`} label="To whom">
      <fieldset>
        <legend className="text-[13px] font-semibold text-ink-2">One message each to</legend>
        <Check label="the student" checked={step.to.includes('student')} onChange={(on) => toggle('student', on)} />
        <Check
          label="the instructor (every active one)"
          checked={step.to.includes('instructor')}
          onChange={(on) => toggle('instructor', on)}
        />
        {kinds.map((kind) => (
          <Check
            key={kind}
            label={`their ${kind} (${withContact(kind).length} of ${plural(students.length, 'student')} have one)`}
            checked={step.to.includes(`contact:${kind}`)}
            onChange={(on) => toggle(`contact:${kind}`, on)}
          />
        ))}
        {addresses.map((spec) => (
          <Check key={spec} label={spec.slice(8)} checked onChange={() => toggle(spec, false)} />
        ))}
      </fieldset>
      <AddressField here={here} known={step.to} onAdd={(address) => toggle(`address:${address}`, true)} />
      {isAlert(step) ? (
        <>
          <p className="text-[13px] text-ink-2">The student gets no message.</p>
          <Check
            label="One message per check about all students, with the reason for each"
            checked={step.together === true}
            onChange={(together) => onChange({ ...step, together })}
          />
        </>
      ) : (
        step.to.length > 1 && (
          <div className="text-[13px] text-ink-2">
            <p>When a limit holds the student’s message back, the others get nothing either.</p>
            <Button look="quiet" onClick={onApart}>
              Tell the others with a separate rule
            </Button>
          </div>
        )
      )}
    </Part>
  );
}

function AddressField(props: {
  readonly here: CourseHere;
  readonly known: readonly string[];
  readonly onAdd: (address: string) => void;
}) {
  const [text, setText] = useState('');
  const address = text.trim();
  const fits = /^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(address) && !props.known.includes(`address:${address}`);
  const domains = domainsOf(props.here.answer.sender);
  const outside = fits && !isInside(address, domains);
  const add = () => {
    if (!fits) return;
    props.onAdd(address);
    setText('');
  };
  return (
    <div>
      <Labelled label="Another address">
        {(id) => (
          <span className="flex gap-2">
            <input
              id={id}
              type="email"
              className="field min-w-0 flex-1"
              placeholder="name@college.example"
              value={text}
              onChange={(e) => setText(e.target.value)}
              onKeyDown={(e) => e.key === 'Enter' && add()}
            />
            <Button disabled={!fits} onClick={add}>
              Add
            </Button>
          </span>
        )}
      </Labelled>
      {outside && (
        <p className="mt-1 text-[13px] text-tangerine-text">
          ▲ {address} is outside {domains.join(', ')}. Student data would leave your institution. Zest Bell asks you
          before it sends.
        </p>
      )}
    </div>
  );
}
