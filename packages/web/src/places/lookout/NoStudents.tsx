/** Nobody fits: what was searched for is named, and can be cleared without losing the conditions. */
import { Button } from '../../ui/Button.tsx';
import type { TableProps } from './LookoutTableView.tsx';

export function NoStudents({ search, onSearch, onChange }: Pick<TableProps, 'search' | 'onSearch' | 'onChange'>) {
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
