/** The small word that joins conditions, which changes the whole group. */
import { DropdownMenu } from 'radix-ui';
import { GROUP_KINDS, type Condition, type GroupKind } from '@zest-bell/core/conditions';
import { menuItem } from '../../ui/menu.ts';
import { dissolve, withKind, type Path } from './tree.ts';

const KIND_WORDS: Readonly<Record<GroupKind, string>> = {
  all: 'all of these are true (and)',
  any: 'any of these is true (or)',
  none: 'none of these is true',
};

export function KindMenu(props: {
  readonly when: Condition;
  readonly path: Path;
  readonly words: string;
  readonly onChange: (when: Condition) => void;
}) {
  const { when, path, words, onChange } = props;
  const dissolved = dissolve(when, path);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`${words}: change how these conditions join`}
        className="rounded text-[0.8em] text-ink-3 underline decoration-dotted underline-offset-4 hover:text-ink"
      >
        {words}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={6} className="pop z-50 p-1.5">
          {GROUP_KINDS.map((k) => (
            <DropdownMenu.Item key={k} className={menuItem} onSelect={() => onChange(withKind(when, path, k))}>
              {KIND_WORDS[k]}
            </DropdownMenu.Item>
          ))}
          {dissolved && (
            <DropdownMenu.Item className={menuItem} onSelect={() => onChange(dissolved)}>
              no group
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
