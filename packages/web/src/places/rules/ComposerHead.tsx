/** The head of a rule's page: its name, its path and label, a remark; undo and redo; further actions. */
import { longest } from '@zest-bell/core/problem';
import { ruleSchema } from '@zest-bell/core/rules';
import { useEffect, useState, type ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import { DropdownMenu } from 'radix-ui';
import { Ellipsis, Redo2, Undo2 } from 'lucide-react';
import type { Rule } from '@zest-bell/core/rules';
import type { CourseHere } from '../../lib/here.ts';
import { offWords } from '../../lib/decisionWords.ts';
import { useRules } from '../../lib/queries.ts';
import { Chip } from '../../ui/Chip.tsx';
import { useDrafts } from '../../parts/rule/draft.ts';
import { setPath } from '../../lib/sets.ts';
import { useShelfStanding } from '../../lib/useShelf.ts';
import { PutOnShelf } from '../../parts/shelf/PutOnShelf.tsx';
import { ShelfNote } from '../../parts/shelf/ShelfNote.tsx';
import { SetNote } from '../../parts/common/SetNote.tsx';
import { menuItem } from '../../ui/menu.ts';

export interface ComposerHeadProps {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly draftKey: string;
  readonly onChange: (change: Partial<Rule>, tag: string) => void;
  readonly onNumbers: () => void;
  readonly onCopy: (thenNumbers: boolean) => void;
  /** Null for a rule that is in the archive. */
  readonly onArchive: (() => void) | null;
}

/** The name of the rule, which can be changed in place, and whether it is on. */
export function RuleName({ here, rule, onChange }: ComposerHeadProps) {
  const cards = useRules(here.id).data ?? [];
  const wasOn = cards.some((c) => c.rule.id === rule.id && c.wasOn);
  const on = rule.status === 'on';
  return (
    <div className="flex min-w-0 items-center gap-3">
      <textarea
        aria-label="Name of the rule"
        rows={1}
        value={rule.name}
        maxLength={longest(ruleSchema.shape.name)}
        onKeyDown={(e) => e.key === 'Enter' && e.preventDefault()}
        onChange={(e) => onChange({ name: e.target.value.replace(/\s*\n\s*/g, ' ') }, 'name')}
        className="-mx-1.5 field-sizing-content max-w-full min-w-24 resize-none overflow-hidden rounded-lg border border-transparent bg-transparent px-1.5 font-head text-[24px] leading-tight font-bold hover:border-line-strong max-[559px]:text-[21px]"
      />
      <Chip tone={on ? 'zest' : 'quiet'}>{on ? '● on' : offWords(rule.status, wasOn)}</Chip>
    </div>
  );
}

/** The way back to the rules, and the rule's label among them. */
export function RulePath({ here, rule, onChange }: ComposerHeadProps) {
  const cards = useRules(here.id).data ?? [];
  const labels = [...new Set(cards.map((c) => c.rule.label).filter(Boolean))];
  return (
    <span className="flex items-center gap-1 text-ink-3">
      <Link className="hover:underline" to={`/c/${here.id}/rules`}>
        Rules
      </Link>
      /
      <input
        aria-label="Label"
        list="labels"
        placeholder="label"
        maxLength={longest(ruleSchema.shape.label)}
        value={rule.label}
        onChange={(e) => onChange({ label: e.target.value }, 'label')}
        className="field-sizing-content min-w-14 rounded border border-transparent bg-transparent px-1 hover:border-line-strong"
      />
      <datalist id="labels">
        {labels.map((l) => (
          <option key={l} value={l} />
        ))}
      </datalist>
    </span>
  );
}

/** Undo, redo, and what else can be done with the rule. */
export function RuleTools(props: ComposerHeadProps) {
  const { draftKey: key, onNumbers } = props;
  const draft = useDrafts((s) => s.drafts[key]);
  const { undo, redo } = useDrafts.getState();
  // A copy that was made to change its numbers opens on them.
  const [search, setSearch] = useSearchParams();
  useEffect(() => {
    if (!search.has('numbers')) return;
    setSearch({}, { replace: true });
    onNumbers();
  }, [search, setSearch, onNumbers]);
  return (
    <span className="flex">
      <IconButton label="Undo" disabled={!draft?.past.length} onClick={() => undo(key)}>
        <Undo2 size={17} aria-hidden />
      </IconButton>
      <IconButton label="Redo" disabled={!draft?.future.length} onClick={() => redo(key)}>
        <Redo2 size={17} aria-hidden />
      </IconButton>
      <More {...props} />
    </span>
  );
}

/** A remark that nobody else reads, and what other courses have of the rule. */
export const RuleNote = ({ here, rule, onChange }: ComposerHeadProps) => (
  <>
    <textarea
      aria-label="A note to yourself"
      rows={1}
      value={rule.note}
      placeholder="A note to yourself"
      maxLength={longest(ruleSchema.shape.note)}
      onChange={(e) => onChange({ note: e.target.value }, 'note')}
      className="-mx-1.5 field-sizing-content w-full resize-none overflow-hidden rounded-lg border border-transparent bg-transparent px-1.5 py-0.5 text-ink-2 hover:border-line-strong"
    />
    <SetNote course={here.id} kind="rule" of={rule.id} />
    <ShelfNote here={here} kind="rule" of={rule.id} />
  </>
);

function More({ here, rule, onNumbers, onCopy, onArchive }: ComposerHeadProps) {
  const shelf = useShelfStanding(here);
  const [putting, setPutting] = useState(false);
  return (
    <>
      {putting && shelf.data && (
        <PutOnShelf here={here} shelf={shelf.data} kind="rule" of={rule.id} onClose={() => setPutting(false)} />
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger
          aria-label="More about this rule"
          title="More"
          className="grid size-9 place-items-center rounded-lg hover:bg-line"
        >
          <Ellipsis size={18} aria-hidden />
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={6} className="pop z-50 min-w-64 p-1.5">
            <DropdownMenu.Item asChild className={menuItem}>
              <Link to={`/c/${here.id}/rules/${rule.id}/history`}>Past checks and versions</Link>
            </DropdownMenu.Item>
            <DropdownMenu.Item asChild className={menuItem}>
              <Link to={setPath(here.id, 'rule', rule.id)}>Use in other courses …</Link>
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={onNumbers}>
              Change all numbers …
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={() => onCopy(false)}>
              Copy
            </DropdownMenu.Item>
            <DropdownMenu.Item className={menuItem} onSelect={() => onCopy(true)}>
              Copy and change numbers …
            </DropdownMenu.Item>
            {shelf.data?.mayKeep && (
              <DropdownMenu.Item className={menuItem} onSelect={() => setPutting(true)}>
                Put on the shelf …
              </DropdownMenu.Item>
            )}
            {onArchive && here.may('rules.run') && (
              <DropdownMenu.Item className={menuItem} onSelect={onArchive}>
                Archive
              </DropdownMenu.Item>
            )}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
    </>
  );
}

function IconButton(props: {
  readonly label: string;
  readonly disabled: boolean;
  readonly onClick: () => void;
  readonly children: ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={props.label}
      title={props.label}
      disabled={props.disabled}
      onClick={props.onClick}
      className="grid size-9 place-items-center rounded-lg hover:bg-line disabled:opacity-35"
    >
      {props.children}
    </button>
  );
}
