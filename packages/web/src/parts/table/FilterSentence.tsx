/** Who is shown, as a sentence: the condition’s parts open where they stand, as in the composer; what is about the log beside it. */
import { Popover } from 'radix-ui';
import { Markable } from '../../ui/Markable.tsx';
import { Pop } from '../../ui/Pop.tsx';
import {
  groupOf,
  isLeaf,
  JOINER,
  leafClause,
  sentenceGroups,
  type RangeClause,
  type Condition,
  type ConditionGroup,
  type Leaf,
} from '@zest-bell/core/conditions';
import { LOG_COLUMN_WORDS, type Brush, type LogBrush, type LookoutView } from '@zest-bell/core/lookout';
import type { CourseHere } from '../../lib/here.ts';
import { AddCondition } from '../conditions/AddCondition.tsx';
import { ConditionPart } from '../conditions/ConditionPart.tsx';
import { markFresh } from '../conditions/fresh.ts';
import { KindMenu } from '../conditions/KindMenu.tsx';
import { addAt, replaceAt, splitAt, type Path } from '../conditions/tree.ts';
import { Button } from '../../ui/Button.tsx';
import { NumberField, SelectField } from '../../ui/fields.tsx';
import { RuleParts } from './RuleParts.tsx';

export interface SentenceProps {
  readonly here: CourseHere;
  readonly view: LookoutView;
  readonly onChange: (part: Partial<LookoutView>) => void;
  /** On the button that takes every condition away. */
  readonly clear?: string;
}

export function FilterSentence(props: SentenceProps) {
  const { view, onChange } = props;
  const { when, logBrushes, ruleBrushes } = view;
  const nothing = when === null && logBrushes.length === 0 && ruleBrushes.length === 0;
  return (
    <div className="font-head text-[21px] leading-[1.55]" data-testid="filter-sentence">
      {nothing ? 'All students ' : 'Students who '}
      {when !== null && <Node {...props} node={when} path={[]} when={when} />}
      {logBrushes.map((b, i) => (
        <span key={b.log}>
          {(i > 0 || when !== null) && <span className="text-[0.8em] text-ink-3"> and </span>}
          <LogPart {...props} brush={b} />
        </span>
      ))}
      {ruleBrushes.length > 0 && (
        <>
          {(when !== null || logBrushes.length > 0) && <span className="text-[0.8em] text-ink-3"> and </span>}
          <RuleParts {...props} />
        </>
      )}{' '}
      <AddCondition
        course={props.here.course}
        now={props.here.now}
        onAdd={(added) => onChange({ when: when === null ? added : addAt(when, [], added) })}
      />
      {!nothing && (
        <button
          type="button"
          className="ml-3 align-middle font-body text-[14px] font-semibold text-pine underline-offset-4 hover:underline"
          onClick={() => onChange({ when: null, logBrushes: [], ruleBrushes: [] })}
        >
          {props.clear ?? 'Show all students'}
        </button>
      )}
    </div>
  );
}

interface FilterNodeProps extends SentenceProps {
  readonly node: Condition;
  readonly path: Path;
  readonly when: Condition;
}

/** Two bounds of one measure, “between 50% and 70%”, each opening in its place. */
function Bounds({ between, at, ...props }: FilterNodeProps & { readonly between: RangeClause; readonly at: number }) {
  const { here, node, path, when, onChange } = props;
  const { children } = groupOf(node as ConditionGroup);
  const { lead, before, low, high, after, inOrder } = between;
  const bound = (place: number, words: string) => (
    <ConditionPart
      leaf={children[place] as Leaf}
      words={words}
      course={here.course}
      now={here.now}
      onChange={(leaf) => onChange({ when: replaceAt(when, [...path, place], leaf) })}
      onRemove={() => onChange({ when: replaceAt(when, [...path, place], null) })}
      onOpen={() => undefined}
    />
  );
  return (
    <>
      {lead} {before}
      {bound(inOrder ? at : at + 1, low)} and {bound(inOrder ? at + 1 : at, high)}
      {after}
    </>
  );
}

function Node(props: FilterNodeProps) {
  const { here, node, path, when, onChange } = props;
  if (isLeaf(node)) {
    return (
      <>
        {leafClause(node, here.course).lead}{' '}
        <ConditionPart
          leaf={node}
          course={here.course}
          now={here.now}
          onChange={(leaf) => onChange({ when: replaceAt(when, path, leaf) })}
          onRemove={() => onChange({ when: replaceAt(when, path, null) })}
          onBetween={(low, high) => onChange({ when: splitAt(when, path, [low, markFresh(high)]) })}
          onOpen={() => undefined}
        />
      </>
    );
  }
  const { kind, children } = groupOf(node);
  const open = kind === 'none' ? 'do not match (' : path.length > 0 ? '(' : '';
  return (
    <>
      {open}
      {sentenceGroups(kind, children, here.course).map(({ at, between }, i) => (
        <span key={at}>
          {i > 0 && (
            <>
              {' '}
              <KindMenu
                when={when}
                path={path}
                words={JOINER[kind]}
                onChange={(next) => onChange({ when: next })}
              />{' '}
            </>
          )}
          {between ? (
            <Bounds {...props} between={between} at={at} />
          ) : (
            <Node {...props} node={children[at]!} path={[...path, at]} />
          )}
        </span>
      ))}
      {open && path.length > 0 && (
        <>
          {' '}
          <AddCondition
            course={here.course}
            now={here.now}
            onAdd={(added) => onChange({ when: addAt(when, path, added) })}
          />
        </>
      )}
      {open && ')'}
    </>
  );
}

/** What a brush on a column from the log asks, in words after "students who". */
export function logWords({ log, brush }: LogBrush): { readonly lead: string; readonly marked: string } {
  const { about } = LOG_COLUMN_WORDS[log];
  const count = log === 'heldBack' || log === 'nudgesThisTerm' ? 'times' : 'days ago';
  switch (brush.kind) {
    case 'unknown':
      return {
        lead: '',
        marked: log === 'lastNudge' ? 'were never nudged' : `have no answer yet on whether they ${about}`,
      };
    case 'some': {
      const yes = brush.values.includes(true);
      if (yes && brush.values.includes(false)) return { lead: '', marked: `were nudged at all` };
      const not = log === 'cameBack' ? 'did not come back after their last nudge' : 'have not replied to a nudge';
      return { lead: '', marked: yes ? about : not };
    }
    case 'range': {
      const { low, high } = brush;
      const span =
        low !== null && low === high
          ? `exactly ${low}`
          : low === null
            ? `${high} or fewer`
            : high === null
              ? `${low} or more`
              : `${low} to ${high}`;
      return { lead: about, marked: `${span} ${count}` };
    }
  }
}

function LogPart({ view, onChange, brush: own }: SentenceProps & { readonly brush: LogBrush }) {
  const { lead, marked } = logWords(own);
  const set = (brush: Brush | null) =>
    onChange({
      logBrushes: view.logBrushes.flatMap((b) => (b.log !== own.log ? [b] : brush === null ? [] : [{ ...b, brush }])),
    });
  const { brush } = own;
  return (
    <>
      {lead}{' '}
      <Popover.Root>
        <Popover.Trigger asChild>
          <Markable
            label={`From the log: ${lead} ${marked}`}
            look="underline decoration-iris decoration-2 underline-offset-4"
          >
            {marked}
          </Markable>
        </Popover.Trigger>
        <Pop label="From the log" className="grid w-[340px] gap-4 p-4">
          {brush.kind === 'range' && (
            <div className="flex gap-3">
              <NumberField label="from" whole min={0} value={brush.low} onChange={(low) => set({ ...brush, low })} />
              <NumberField label="to" whole min={0} value={brush.high} onChange={(high) => set({ ...brush, high })} />
            </div>
          )}
          {brush.kind === 'some' && (
            <SelectField
              label="is"
              value={String(brush.values[0] === true)}
              onChange={(e) => set({ kind: 'some', values: [e.target.value === 'true'] })}
            >
              <option value="true">yes</option>
              <option value="false">no</option>
            </SelectField>
          )}
          <p className="text-[14px] text-ink-2">
            This only filters the table. A rule cannot use a condition about the log, because what a rule has sent would
            then decide what it sends.
          </p>
          <Button look="quiet" className="justify-self-start" onClick={() => set(null)}>
            Remove this condition
          </Button>
        </Pop>
      </Popover.Root>
    </>
  );
}
