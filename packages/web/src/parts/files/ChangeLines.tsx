import type { ChangeLine } from '@zest-bell/core/course';
import { Chip } from '../../ui/Chip.tsx';

/** Differences, one a line: who or what, and from what to what. */
export function ChangeLines({ lines, all }: { readonly lines: readonly ChangeLine[]; readonly all: number }) {
  return (
    <ul className="mt-1 grid gap-0.5 text-[14px]">
      {lines.map((line, i) => (
        <li key={i} className="min-w-0">
          {line.change === 'order' ? (
            'The items are in another order'
          ) : (
            <>
              <strong>{line.name}</strong>{' '}
              {line.change === 'new' ? (
                <Chip tone="zest">new</Chip>
              ) : line.change === 'gone' ? (
                <Chip tone="tangerine">removed</Chip>
              ) : (
                <>
                  {line.field}: <span className="text-ink-2 line-through decoration-ink-3">{line.from}</span> →{' '}
                  {line.to}
                </>
              )}
            </>
          )}
        </li>
      ))}
      {all > lines.length && <li className="text-ink-3">and {all - lines.length} more</li>}
    </ul>
  );
}
