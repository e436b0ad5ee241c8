/** By its grip a condition is dragged, or moved, grouped, copied and removed from a menu and by keys. */
import { useState, type KeyboardEvent, type ReactNode } from 'react';
import { useDraggable, useDroppable, type Over } from '@dnd-kit/core';
import { DropdownMenu } from 'radix-ui';
import { GripVertical } from 'lucide-react';
import type { Condition } from '@zest-bell/core/conditions';
import { copyAt, moveDown, moveIn, moveOut, moveUp, replaceAt, type MovedNode, type Path } from './tree.ts';
import { menuItem } from '../../ui/menu.ts';

interface GripAct {
  readonly words: string;
  readonly keys: string;
  /** Null where there is nothing to be done. */
  readonly run: (tree: Condition, path: Path) => MovedNode | null;
}

const ACTS: readonly GripAct[] = [
  { words: 'Move up', keys: 'Alt ↑', run: moveUp },
  { words: 'Move down', keys: 'Alt ↓', run: moveDown },
  { words: 'Group with the one above', keys: 'Alt →', run: moveIn },
  { words: 'Out of its group', keys: 'Alt ←', run: moveOut },
  {
    words: 'Copy',
    keys: 'Ctrl D',
    run: (tree, path) => (path.length === 0 && !('measure' in tree) ? null : copyAt(tree, path)),
  },
];

const actOfKey = (e: KeyboardEvent): GripAct | undefined => {
  const pressed = `${e.altKey ? 'Alt ' : ''}${e.ctrlKey || e.metaKey ? 'Ctrl ' : ''}`;
  const key = { ArrowUp: '↑', ArrowDown: '↓', ArrowRight: '→', ArrowLeft: '←' }[e.key] ?? e.key.toUpperCase();
  return ACTS.find((a) => a.keys === pressed + key);
};

export interface GripProps {
  readonly path: Path;
  /** What it holds, for those who hear the page. */
  readonly words: string;
  readonly when: Condition;
  readonly onMoved: (moved: MovedNode | null) => void;
  readonly onChange: (when: Condition) => void;
}

export function Grip({ path, words, when, onMoved, onChange }: GripProps) {
  const { setNodeRef, listeners, isDragging } = useDraggable({ id: `grip ${path.join('.')}`, data: { path } });
  const [open, setOpen] = useState(false);
  const removed = replaceAt(when, path, null);
  const onKeyDown = (e: KeyboardEvent) => {
    const act = actOfKey(e);
    if (act) {
      e.preventDefault();
      e.stopPropagation();
      onMoved(act.run(when, path));
    } else if (e.key === 'Delete' && removed) {
      e.preventDefault();
      onChange(removed);
    }
  };
  return (
    <DropdownMenu.Root open={open} onOpenChange={setOpen}>
      <DropdownMenu.Trigger
        ref={setNodeRef}
        data-grip={path.join('.')}
        aria-label={`Move, group, copy or remove: ${words}`}
        title="Drag to move; click for more"
        onKeyDownCapture={onKeyDown}
        {...listeners}
        onPointerDown={(e) => {
          listeners?.['onPointerDown']?.(e);
          // The menu opens on click, so that a press can begin a drag.
          e.preventDefault();
        }}
        onClick={() => setOpen(true)}
        className={`mr-0.5 inline-grid h-6 w-4 cursor-grab touch-none place-items-center rounded align-[-4px] text-ink-3/60 hover:bg-fog hover:text-ink ${isDragging ? 'opacity-40' : ''}`}
      >
        <GripVertical size={15} aria-hidden />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={6} className="pop z-50 min-w-64 p-1.5">
          {ACTS.map((act) => {
            const result = act.run(when, path);
            return (
              <DropdownMenu.Item
                key={act.words}
                disabled={!result}
                className={`${menuItem} flex items-center gap-5`}
                onSelect={() => onMoved(result)}
              >
                {act.words} <kbd className="ml-auto font-num text-[12.5px] text-ink-3">{act.keys}</kbd>
              </DropdownMenu.Item>
            );
          })}
          <DropdownMenu.Separator className="my-1 h-px bg-line" />
          <DropdownMenu.Item
            disabled={removed === null}
            className={`${menuItem} flex items-center gap-5`}
            onSelect={() => removed && onChange(removed)}
          >
            Remove <kbd className="ml-auto font-num text-[12.5px] text-ink-3">Delete</kbd>
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export type DropTarget =
  | { readonly kind: 'before'; readonly parent: Path; readonly index: number }
  | { readonly kind: 'onto'; readonly path: Path };

export const readDrop = (over: Over | null): DropTarget | null =>
  (over?.data.current?.['drop'] as DropTarget | undefined) ?? null;

/** The room between two conditions, into which one can be dropped. */
export function DropGap(props: { readonly parent: Path; readonly index: number; readonly dragging: Path | null }) {
  const { parent, index, dragging } = props;
  const drop: DropTarget = { kind: 'before', parent, index };
  const { setNodeRef, isOver } = useDroppable({
    id: `gap ${parent.join('.')}:${index}`,
    data: { drop },
    disabled: !dragging,
  });
  if (!dragging) return null;
  return (
    <div ref={setNodeRef} aria-hidden data-gap={`${parent.join('.')}:${index}`} className="flex h-4 items-center">
      <div className={`h-1 w-full rounded ${isOver ? 'bg-ink' : 'bg-line'}`} />
    </div>
  );
}

/** A condition onto which another one can be dropped, to form a group. */
export function DropOnto(props: { readonly path: Path; readonly dragging: Path | null; readonly children: ReactNode }) {
  const { path, dragging, children } = props;
  const drop: DropTarget = { kind: 'onto', path };
  const { setNodeRef, isOver } = useDroppable({
    id: `onto ${path.join('.')}`,
    data: { drop },
    disabled: !dragging || dragging.join() === path.join(),
  });
  return (
    <div ref={setNodeRef} className={isOver && dragging ? 'rounded-lg bg-zest-soft' : ''}>
      {children}
    </div>
  );
}
