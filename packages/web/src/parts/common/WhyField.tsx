/** Why somebody changes what runs: optional, for the people they share the course with. */
import { LONGEST_REASON } from '@zest-bell/core/exchange';
import { Labelled } from '../../ui/fields.tsx';

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
