/** A rule of which nothing is chosen for you: whom it looks for and what they read come first. */
import { useState } from 'react';
import { leafClause, type Leaf } from '@zest-bell/core/conditions';
import type { Rule } from '@zest-bell/core/rules';
import type { CourseHere } from '../../lib/here.ts';
import { useWordings } from '../../lib/queries.ts';
import { defaultLeaf, newRule } from '../../lib/ruleDefaults.ts';
import { MeasurePicker } from '../../parts/conditions/MeasurePicker.tsx';
import { spoken } from '../../parts/wording/spoken.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { SelectField } from '../../ui/fields.tsx';

export function BlankRuleDialog(props: {
  readonly here: CourseHere;
  readonly busy: boolean;
  readonly onBegin: (rule: Rule) => void;
  readonly onBack: () => void;
  readonly onClose: () => void;
}) {
  const { here } = props;
  const wordings = useWordings(here.id).data ?? [];
  const [when, setWhen] = useState<Leaf | null>(null);
  const [wording, setWording] = useState('');
  const clause = when && leafClause(when, here.course);
  const begin = () => {
    if (when && wording !== '') props.onBegin({ ...newRule(here.course, here.now, wording), when });
  };
  return (
    <Dialog
      open
      onClose={props.onClose}
      title="A blank rule"
      note="Choose whom it looks for and what they read. It checks every weekday at 9:30 AM and nudges each student once each time, until you change that."
      foot={
        <>
          <Button onClick={props.onBack}>Back</Button>
          <Button
            className="ml-auto"
            look="main"
            busy={props.busy}
            disabled={when === null || wording === ''}
            onClick={begin}
          >
            Open the rule
          </Button>
        </>
      }
    >
      <div className="grid gap-4 px-6 py-5">
        <section aria-label="Whom it looks for" className="grid gap-2">
          <h3 className="text-[15px] font-bold">Whom it looks for</h3>
          {clause === null ? (
            <MeasurePicker
              course={here.course}
              onChoose={(measure) => setWhen(defaultLeaf(measure, here.course, here.now))}
              onChooseAbout={setWhen}
            />
          ) : (
            <p className="flex flex-wrap items-center gap-3">
              <span>
                students who {clause.lead} <span className="marked">{clause.marked}</span>
              </span>
              <Button onClick={() => setWhen(null)}>Choose something else</Button>
            </p>
          )}
        </section>
        <SelectField label="What they read" value={wording} onChange={(e) => setWording(e.target.value)}>
          <option value="" disabled>
            Choose a text …
          </option>
          {wordings.map((w) => (
            <option key={w.id} value={w.id}>
              {w.name}: {spoken(w.subject)}
            </option>
          ))}
        </SelectField>
      </div>
    </Dialog>
  );
}
