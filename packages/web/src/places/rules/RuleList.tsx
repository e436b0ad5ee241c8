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
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { LookoutRulesAnswer, RuleCard } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import { ask } from '../../lib/api.ts';
import { atMoment } from '../../lib/atMoment.ts';
import { attempt } from '../../lib/attempt.ts';
import { reorder } from '../../lib/ruleActions.ts';
import { RULE_ROW, RuleLine } from './RuleLine.tsx';

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
  const matching = useQuery({
    ...atMoment(['rulesMatching', here.id, all.map((c) => `${c.rule.id} ${c.version}`).join()], here.now),
    queryFn: ({ signal }) =>
      ask(contract.desk.rules, { course: here.id }, { query: { rules: all.map((c) => c.rule.id).join() }, signal }),
    enabled: all.length > 0,
  });
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
        <div className="overflow-clip rounded-[16px] border border-line bg-sheet">
          <Heads />
          <ul aria-label="Rules">
            {order.map((card) => (
              <RuleLine
                key={card.rule.id}
                card={card}
                here={here}
                matching={matching.isError ? null : matching.data && countOf(matching.data, card.rule.id)}
                picked={props.picked.has(card.rule.id)}
                onPick={(yes) => props.onPick(card.rule.id, yes)}
              />
            ))}
          </ul>
        </div>
      </SortableContext>
    </DndContext>
  );
}

/** How many match a rule; null for one that cannot be read. */
function countOf({ rules }: LookoutRulesAnswer, rule: string): number | null {
  const found = rules[rule];
  return found === undefined ? null : Object.keys(found).length;
}

/** The heads of the columns, where there is room for columns. */
const Heads = () => (
  <div
    aria-hidden
    className={`${RULE_ROW} min-h-0! border-b border-line py-1.5! text-[13px] font-semibold text-ink-2 max-[979px]:hidden`}
  >
    <span className="invisible flex gap-1.5">
      <span className="w-5" />
      <span className="w-4" />
      <span className="ml-1 w-11" />
    </span>
    <span>Rule</span>
    <span className="text-right">Match</span>
    <span>Next check</span>
    <span className="text-right">Sent</span>
    <span className="text-right">Back</span>
    <span className="text-right">Replied</span>
    <span className="w-16" />
  </div>
);
