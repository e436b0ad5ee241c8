/** Nobody fits: what was searched for is named, and can be cleared without losing the conditions. */
import type { LookoutView } from '@zest-bell/core/lookout';
import { Button } from '../../ui/Button.tsx';

interface NoStudentsProps {
  readonly search: string;
  readonly onSearch: (search: string) => void;
  readonly onChange: (part: Partial<LookoutView>) => void;
}

export function NoStudents({ search, onSearch, onChange }: NoStudentsProps) {
  const sought = search.trim();
  return (
    <div className="grid justify-items-start gap-2 p-6 text-ink-2">
      <p>
        {sought === ''
          ? 'No student matches all of these conditions.'
          : `No student here has “${sought}” in their name or address.`}
      </p>
      {sought === '' ? (
        <Button onClick={() => onChange({ when: null, logBrushes: [], ruleBrushes: [] })}>Show all students</Button>
      ) : (
        <Button onClick={() => onSearch('')}>Clear the search</Button>
      )}
    </div>
  );
}
