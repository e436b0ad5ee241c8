/** Somebody saved the rule while one had a draft of it. */
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { RuleCard } from '@zest-bell/core/exchange';
import type { Rule } from '@zest-bell/core/rules';
import { mergeRules, partTitle, rulePartWords } from '@zest-bell/core/sets';
import { ask } from '../../../lib/api.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { useWordings } from '../../../lib/queries.ts';
import { Meanwhile } from '../../../parts/common/Meanwhile.tsx';
import type { RuleDraftState } from '../../../parts/rule/draft.ts';

export function RuleMeanwhile(props: {
  readonly here: CourseHere;
  readonly card: RuleCard;
  readonly draft: RuleDraftState;
  /** The draft with what was saved in it. */
  readonly onMerged: (rule: Rule) => void;
  readonly onDrop: () => void;
}) {
  const { here, card, draft, onMerged, onDrop } = props;
  const wordings = useWordings(here.id);
  const versions = useQuery({
    queryKey: ['versions', here.id, card.rule.id, card.version],
    queryFn: () => ask(contract.rules.versions, { course: here.id, rule: card.rule.id }),
  });
  const together = draft.base ? mergeRules(draft.base, draft.rule, card.rule) : null;
  const nameOf = (id: string) => wordings.data?.find((w) => w.id === id)?.name ?? id;
  return (
    <Meanwhile
      who={versions.data?.find((v) => v.version === card.version)?.by ?? null}
      what="rule"
      theirs={together?.theirs.map(titleOf) ?? []}
      both={
        together?.both.map(({ part, there }) => ({
          title: titleOf(part),
          words: rulePartWords(part, there, here.course, nameOf),
        })) ?? []
      }
      onMerged={() => onMerged(together?.merged ?? draft.rule)}
      onDrop={onDrop}
    />
  );
}

const titleOf = (part: string): string =>
  ({ audience: 'For whom', spellsFrom: 'From when matches count' })[part] ?? partTitle(part);
