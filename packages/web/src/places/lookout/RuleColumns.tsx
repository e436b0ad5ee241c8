/** Which rules are columns of the table: all that are on, those of a label, or one by one. */
import type { Rule } from '@zest-bell/core/rules';
import { columnKey, ruleColumnOf, rulesView, type LookoutColumn } from '@zest-bell/core/lookout';
import { Check } from '../../ui/fields.tsx';
import { Pill } from '../../ui/Pill.tsx';

export function RuleColumns(props: {
  /** Those of the list, in its order. */
  readonly rules: readonly Rule[];
  readonly keys: ReadonlySet<string>;
  readonly full: boolean;
  readonly same: (columns: readonly LookoutColumn[]) => boolean;
  readonly onAll: (rules: readonly string[]) => void;
  readonly onToggle: (column: LookoutColumn, chosen: boolean) => void;
}) {
  const { rules, keys, same, onAll } = props;
  if (rules.length === 0) return null;
  const labels = [...new Set(rules.map((r) => r.label).filter((label) => label !== ''))].toSorted((a, b) =>
    a.localeCompare(b, 'en'),
  );
  const set = (name: string, ids: readonly string[]) =>
    ids.length > 0 && (
      <Pill key={name} pressed={same(rulesView(ids).columns)} onClick={() => onAll(ids)}>
        {name}
      </Pill>
    );
  const ids = (those: readonly Rule[]) => those.map((r) => r.id);
  return (
    <section>
      <h3 className="mb-0.5 font-bold">Your rules, a column each</h3>
      <p className="mb-1.5 text-[13.5px] text-ink-2">Each cell says for how long a student has matched the rule.</p>
      <div className="mb-1 flex flex-wrap gap-1.5">
        {set('All that are on', ids(rules.filter((r) => r.status === 'on')))}
        {labels.map((label) => set(label, ids(rules.filter((r) => r.label === label))))}
      </div>
      <div className="max-h-44 overflow-auto">
        {rules.map((rule) => {
          const column = ruleColumnOf(rule.id);
          const chosen = keys.has(columnKey(column));
          return (
            <Check
              key={rule.id}
              label={rule.status === 'on' ? rule.name : `${rule.name} (not on)`}
              checked={chosen}
              disabled={props.full && !chosen}
              onChange={(next) => props.onToggle(column, next)}
            />
          );
        })}
      </div>
    </section>
  );
}
