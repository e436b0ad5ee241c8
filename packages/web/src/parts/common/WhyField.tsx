/** Why somebody changes what runs: optional, for the people they share the course with. */
import { LONGEST_REASON } from '@zest-bell/core/exchange';
import { useKept } from '../../lib/useKept.ts';
import { Labelled } from '../../ui/fields.tsx';

/** What was typed is kept until the change is saved. `of`: the rule or wording; left out for the limits. */
export const useWhy = (course: number, of = '') => useKept(`why ${course} ${of}`, '');

export function WhyField({ why, onChange }: { readonly why: string; readonly onChange: (why: string) => void }) {
  return (
    <Labelled label="Why? (optional: it stands with the change, and your colleagues see it on Today)">
      {(id) => (
        <input
          id={id}
          className="field w-full"
          maxLength={LONGEST_REASON}
          value={why}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
    </Labelled>
  );
}
