/** Somebody saved the rule while one had a draft of it: who, what they changed, and what both did. */
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { RuleCard } from '@zest-bell/core/exchange';
import type { Rule } from '@zest-bell/core/rules';
import { mergeDraft, partTitle, rulePartWords } from '@zest-bell/core/sets';
import { listWords } from '@zest-bell/core/time';
import { ask } from '../../../lib/api.ts';
import type { Here } from '../../../lib/here.ts';
import { useWordings } from '../../../lib/queries.ts';
import type { Draft } from '../../../parts/rule/draft.ts';
import { Button } from '../../../ui/Button.tsx';

export function Meanwhile(props: {
  readonly here: Here;
  readonly card: RuleCard;
  readonly draft: Draft;
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
  const who = versions.data?.find((v) => v.version === card.version)?.by ?? 'Someone';
  const together = draft.base ? mergeDraft(draft.base, draft.rule, card.rule) : null;
  const titles = (parts: readonly string[]) => listWords(parts.map((p) => `“${titleOf(p)}”`));
  const nameOf = (id: string) => wordings.data?.find((w) => w.id === id)?.name ?? id;
  return (
    <div role="alert" className="mt-3 rounded-xl border border-line bg-sheet p-4">
      <p className="font-semibold">{who} changed this rule after you began. Your draft is kept.</p>
      {together && together.theirs.length > 0 && (
        <p className="mt-1">They changed {titles(together.theirs)}, which you did not. Your draft can take that in.</p>
      )}
      {together && together.both.length > 0 && (
        <>
          <p className="mt-1">
            Both of you changed {titles(together.both.map((l) => l.part))}. Your draft keeps yours.
          </p>
          <ul className="mt-1 list-disc pl-5 text-[14px] text-ink-2">
            {together.both.map((line) => (
              <li key={line.part}>
                {titleOf(line.part)}, as they saved it:{' '}
                {rulePartWords(line.part, line.there, here.course, nameOf) || 'other than yours'}
              </li>
            ))}
          </ul>
        </>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        <Button onClick={() => onMerged(together?.rule ?? draft.rule)}>
          {together && together.theirs.length > 0 ? 'Continue with both changes' : 'Continue with my draft'}
        </Button>
        <Button onClick={onDrop}>Use the saved rule</Button>
      </div>
    </div>
  );
}

const titleOf = (part: string): string =>
  ({ audience: 'For whom', spellsFrom: 'From when spells count' })[part] ?? partTitle(part);
