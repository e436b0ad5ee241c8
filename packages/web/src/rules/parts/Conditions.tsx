/** The conditions of the sentence, nested as the tree is: one part a condition, one joiner a group. */
import { DropdownMenu } from 'radix-ui';
import {
  CATALOGUE,
  GROUP_KINDS,
  groupOf,
  isLeaf,
  JOINER,
  leafClause,
  MEASURE_NAMES,
  type Condition,
  type Course,
  type GroupKind,
  type Instant,
  type MeasureName,
} from '@zest-bell/core';
import { defaultLeaf } from '../defaults.ts';
import { addAt, replaceAt, withKind, type Path } from '../tree.ts';
import { ConditionPart } from './ConditionPart.tsx';

const KIND_WORDS: Readonly<Record<GroupKind, string>> = {
  all: 'all of these hold (and)',
  any: 'any of these holds (or)',
  none: 'none of these holds',
};

export interface ConditionsProps {
  readonly when: Condition;
  readonly course: Course;
  readonly now: Instant;
  readonly onChange: (when: Condition, tag?: string) => void;
  readonly onOpen: (path: Path) => void;
}

export function Conditions(props: ConditionsProps) {
  return (
    <div className="my-1 border-l-[3px] border-zest pl-5">
      <Node {...props} node={props.when} path={[]} />
    </div>
  );
}

function Node(props: ConditionsProps & { readonly node: Condition; readonly path: Path }) {
  const { node, path, when, course, now, onChange } = props;
  if (isLeaf(node)) {
    const removed = replaceAt(when, path, null);
    return (
      <>
        {path.length === 0 && 'who '}
        {leafClause(node, course).lead}{' '}
        <ConditionPart
          leaf={node}
          course={course}
          now={now}
          onChange={(leaf, tag) => onChange(replaceAt(when, path, leaf)!, tag && `${path.join('.')}:${tag}`)}
          onRemove={removed === null ? null : () => onChange(removed)}
          onOpen={() => props.onOpen(path)}
        />
        {path.length === 0 && (
          <>
            {' '}
            <AddCondition {...props} />
          </>
        )}
      </>
    );
  }
  const { kind, children } = groupOf(node);
  const nested = path.length > 0;
  return (
    <div className={nested ? 'my-1 ml-1 border-l-[3px] border-line-strong pl-4' : ''}>
      {kind === 'none' && <KindMenu {...props} words="none of these:" />}
      {children.map((child, i) => (
        <div key={i}>
          {i === 0 ? (
            !nested && kind !== 'none' && 'who '
          ) : kind === 'none' ? (
            <span className="text-ink-3">or </span>
          ) : (
            <KindMenu {...props} words={JOINER[kind]} />
          )}
          {i > 0 && ' '}
          <Node {...props} node={child} path={[...path, i]} />
          {i === children.length - 1 && (
            <>
              {' '}
              <AddCondition {...props} />
            </>
          )}
        </div>
      ))}
    </div>
  );
}

const menuItem = 'cursor-pointer rounded-lg px-3 py-1.5 text-[15px] outline-none data-highlighted:bg-fog';

/** The small word between two conditions, which changes the whole group. */
function KindMenu({ when, path, onChange, words }: ConditionsProps & { readonly path: Path; readonly words: string }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        aria-label={`${words}: change how these conditions join`}
        className="mr-1 rounded text-[0.8em] text-ink-3 underline decoration-dotted underline-offset-4 hover:text-ink"
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
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function AddCondition({ when, course, now, path, onChange }: ConditionsProps & { readonly path: Path }) {
  const add = (measure: MeasureName) => onChange(addAt(when, path, defaultLeaf(measure, course, now)));
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="rounded-lg border border-dashed border-pine px-2 py-0.5 align-middle font-body text-[14px] font-semibold text-pine hover:border-solid">
        + condition
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="start" sideOffset={6} className="pop z-50 max-h-96 overflow-auto p-1.5">
          {MEASURE_NAMES.map((name) => (
            <DropdownMenu.Item key={name} className={menuItem} onSelect={() => add(name)}>
              {CATALOGUE[name].title}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
