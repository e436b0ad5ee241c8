/**
 * The conditions of the sentence, nested as the tree is. Each has a grip by which it is moved, grouped, copied and removed:
 * dragged, from its menu, or by keys.
 */
import { useLayoutEffect, useRef, useState } from 'react';
import {
  DndContext,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
  type Announcements,
  type DragEndEvent,
} from '@dnd-kit/core';
import type { Instant } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { groupOf, isLeaf, JOINER, leafClause, type Condition } from '@zest-bell/core/conditions';
import { addAt, groupTogether, moveTo, replaceAt, splitAt, type MovedNode, type Path } from './tree.ts';
import { AddCondition } from './AddCondition.tsx';
import { ConditionPart } from './ConditionPart.tsx';
import { markFresh } from './fresh.ts';
import { DropGap, DropOnto, Grip, readDrop } from './Grip.tsx';
import { KindMenu } from './KindMenu.tsx';

export interface ConditionsProps {
  readonly when: Condition;
  readonly course: Course;
  readonly now: Instant;
  readonly onChange: (when: Condition, tag?: string) => void;
  readonly onOpen: (path: Path) => void;
  /** What is said of a condition beside it: that nobody meets it, that it contradicts another. */
  readonly remarks: ReadonlyMap<string, string>;
}

interface ConditionNodeProps extends ConditionsProps {
  readonly node: Condition;
  readonly path: Path;
  readonly onMoved: (moved: MovedNode | null) => void;
  readonly dragging: Path | null;
  /** The last one of its group: a further condition is added behind it. */
  readonly last?: boolean;
}

const ANNOUNCEMENTS: Announcements = {
  onDragStart: () => 'You picked up the condition.',
  onDragOver: ({ over }) =>
    readDrop(over)?.kind === 'onto' ? 'Drop here to group it with this condition.' : 'Drop here to put it between.',
  onDragEnd: () => 'You dropped the condition.',
  onDragCancel: () => 'The condition is back where it was.',
};

export function Conditions(props: ConditionsProps) {
  const { when, onChange } = props;
  const frame = useRef<HTMLDivElement>(null);
  const [dragging, setDragging] = useState<Path | null>(null);
  // After a move by keys the grip that moved keeps the focus, wherever it is now. In the very commit that moved it: a later
  // effect could be one that an earlier drawing, such as of an answer about the reach, had still to run.
  const follow = useRef<Path | null>(null);
  useLayoutEffect(() => {
    const path = follow.current;
    follow.current = null;
    if (path) frame.current?.querySelector<HTMLElement>(`[data-grip="${path.join('.')}"]`)?.focus();
  });
  const onMoved = (moved: MovedNode | null) => {
    if (!moved) return;
    follow.current = moved.path;
    onChange(moved.tree);
  };
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 6 } }));
  const onDragEnd = (e: DragEndEvent) => {
    setDragging(null);
    const from = e.active.data.current?.['path'] as Path | undefined;
    const drop = readDrop(e.over);
    if (!from || !drop) return;
    onMoved(
      drop.kind === 'before' ? moveTo(when, from, drop.parent, drop.index) : groupTogether(when, from, drop.path),
    );
  };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      accessibility={{ container: document.body, announcements: ANNOUNCEMENTS }}
      onDragStart={(e) => setDragging((e.active.data.current?.['path'] as Path | undefined) ?? null)}
      onDragEnd={onDragEnd}
      onDragCancel={() => setDragging(null)}
    >
      <div ref={frame} className="my-1 border-l-[3px] border-zest pl-2.5">
        <Node {...props} node={when} path={[]} onMoved={onMoved} dragging={dragging} />
      </div>
    </DndContext>
  );
}

function Node(props: ConditionNodeProps) {
  return isLeaf(props.node) ? <LeafLine {...props} /> : <GroupBlock {...props} />;
}

function LeafLine(props: ConditionNodeProps) {
  const { node, path, when, course, now, onChange, onMoved, dragging } = props;
  if (!isLeaf(node)) return null;
  const removed = replaceAt(when, path, null);
  const remark = props.remarks.get(path.join('.'));
  const { lead, marked } = leafClause(node, course);
  const alone = path.length === 0;
  return (
    <DropOnto path={path} dragging={dragging}>
      {alone && (
        <>
          <Grip path={path} words={marked} when={when} onMoved={onMoved} onChange={onChange} /> who{' '}
        </>
      )}
      {lead}{' '}
      <ConditionPart
        leaf={node}
        course={course}
        now={now}
        onChange={(leaf, tag) => onChange(replaceAt(when, path, leaf)!, tag && `${path.join('.')}:${tag}`)}
        onRemove={removed === null ? null : () => onChange(removed)}
        onBetween={(low, high) => onChange(splitAt(when, path, [low, markFresh(high)]))}
        onOpen={() => props.onOpen(path)}
      />
      {(alone || props.last) && (
        <>
          {' '}
          <AddCondition course={course} now={now} onAdd={(added) => onChange(addAt(when, path.slice(0, -1), added))} />
        </>
      )}
      {remark && (
        <span className="block font-body text-[14px] leading-snug text-tangerine-text" role="note">
          ▲ {remark}
        </span>
      )}
    </DropOnto>
  );
}

const KIND_HEADS = { all: 'all of these:', any: 'any of these:', none: 'none of these:' } as const;

function GroupBlock(props: ConditionNodeProps) {
  const { node, path, when, course, onChange, onMoved, dragging } = props;
  if (isLeaf(node)) return null;
  const { kind, children } = groupOf(node);
  const nested = path.length > 0;
  const frame = nested ? 'my-1 border-l-[3px] border-line-strong pl-2' : '';
  const joiner = (i: number) => {
    if (i === 0) return !nested && kind !== 'none' && <span>who</span>;
    if (kind === 'none') return <span className="text-[0.8em] text-ink-3">or</span>;
    return <KindMenu when={when} path={path} onChange={onChange} words={JOINER[kind]} />;
  };
  return (
    <div className={frame} role="group" aria-label={`${kind} of ${children.length} conditions`}>
      {(nested || kind === 'none') && (
        <div>
          {nested ? (
            <Grip path={path} words={`these ${children.length}`} when={when} onMoved={onMoved} onChange={onChange} />
          ) : (
            'who meet '
          )}
          <KindMenu when={when} path={path} onChange={onChange} words={KIND_HEADS[kind]} />
        </div>
      )}
      {children.map((child, i) => {
        const at = [...path, i];
        return (
          <div key={i}>
            <DropGap parent={path} index={i} dragging={dragging} />
            <div className="flex items-baseline gap-x-1.5">
              {isLeaf(child) && (
                <Grip
                  path={at}
                  words={leafClause(child, course).marked}
                  when={when}
                  onMoved={onMoved}
                  onChange={onChange}
                />
              )}
              {joiner(i)}
              <div className="min-w-0 flex-1">
                <Node {...props} node={child} path={at} last={i === children.length - 1} />
              </div>
            </div>
          </div>
        );
      })}
      <DropGap parent={path} index={children.length} dragging={dragging} />
      {!isLeaf(children.at(-1)!) && (
        <AddCondition
          course={props.course}
          now={props.now}
          onAdd={(added) => props.onChange(addAt(props.when, props.path, added))}
        />
      )}
    </div>
  );
}
