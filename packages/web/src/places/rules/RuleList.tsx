/** Rules in the order in which they decide, changed by drag or by keys. */
import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { useState } from 'react';
import type { RuleCard } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { attempt } from '../../lib/attempt.ts';
import { reorder } from '../../lib/ruleActions.ts';
import { RuleLine } from './RuleLine.tsx';

export function RuleList(props: {
  readonly here: CourseHere;
  /** What is shown, of `all`. */
  readonly cards: readonly RuleCard[];
  readonly all: readonly RuleCard[];
  readonly picked: ReadonlySet<string>;
  readonly onPick: (id: string, yes: boolean) => void;
}) {
  const { here, cards, all } = props;
  // Until the server answers the list is kept as it was dropped.
  const [dropped, setDropped] = useState<readonly string[] | null>(null);
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const byId = new Map(cards.map((c) => [c.rule.id, c]));
  const order = (dropped ?? all.map((c) => c.rule.id)).flatMap((id) => byId.get(id) ?? []);
  const ids = order.map((c) => c.rule.id);
  const onDragEnd = async ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    // Among all rules, so that those which a label hides keep their places.
    const every = all.map((c) => c.rule.id);
    const next = arrayMove(every, every.indexOf(String(active.id)), every.indexOf(String(over.id)));
    setDropped(next);
    await attempt(() => reorder(here, next));
    setDropped(null);
  };
  return (
    <DndContext
      sensors={sensors}
      accessibility={{ container: document.body }}
      collisionDetection={closestCenter}
      onDragEnd={(e) => void onDragEnd(e)}
    >
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <ul className="grid gap-3">
          {order.map((card) => (
            <RuleLine
              key={card.rule.id}
              card={card}
              here={here}
              picked={props.picked.has(card.rule.id)}
              onPick={(yes) => props.onPick(card.rule.id, yes)}
            />
          ))}
        </ul>
      </SortableContext>
    </DndContext>
  );
}
