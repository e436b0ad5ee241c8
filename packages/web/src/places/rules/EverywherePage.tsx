/** The rules of all of one’s courses: whether each is on, and its last and next check. A row leads to the rule in its course. */
import { useState } from 'react';
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { dayWords, plural } from '@zest-bell/core/time';
import type { EveryRule } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { offWords, roundWords } from '../../lib/decisionWords.ts';
import { useHere } from '../../lib/here.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { Pill } from '../../ui/Pill.tsx';
import { When } from '../../ui/When.tsx';

/** Rows at once. */
const MOST = 200;

const SHOWN = { on: 'On', off: 'Off', cannotRun: 'Cannot run' } as const;
type RuleFilter = keyof typeof SHOWN;

const isShown: Readonly<Record<RuleFilter, (rule: EveryRule) => boolean>> = {
  on: (rule) => rule.status === 'on',
  off: (rule) => rule.status !== 'on',
  cannotRun: (rule) => rule.status === 'on' && rule.cannotRun !== null,
};

export function EverywherePage() {
  const here = useHere();
  const [typed, setTyped] = useState('');
  const [only, setOnly] = useState<RuleFilter | null>(null);
  const [most, setMost] = useState(MOST);
  const rules = useQuery({ queryKey: ['everyRule', here.now], queryFn: () => ask(contract.desk.everyRule) });
  const words = typed.trim().toLowerCase();
  const all = rules.data ?? [];
  const found = all.filter((r) => `${r.code} ${r.name} ${r.label} ${r.sentence}`.toLowerCase().includes(words));
  const shown = only === null ? found : found.filter(isShown[only]);
  return (
    <PlacePage
      place="rules"
      part="all your courses"
      scope={<EverywhereSwitch here={here} place="rules" />}
      lead={rules.data ? `${plural(all.length, 'rule')}, ${all.filter(isShown.on).length} on` : '…'}
      filters={
        <>
          <input
            type="search"
            aria-label="Search the rules of all courses"
            placeholder="Search names, courses, conditions"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            className="field w-64"
          />
          <div role="group" aria-label="Show rules that are" className="flex flex-wrap gap-1.5">
            <Pill pressed={only === null} onClick={() => setOnly(null)}>
              All rules {found.length}
            </Pill>
            {(Object.keys(SHOWN) as RuleFilter[]).map((one) => (
              <Pill key={one} pressed={only === one} onClick={() => setOnly(one)}>
                {SHOWN[one]} {found.filter(isShown[one]).length}
              </Pill>
            ))}
          </div>
        </>
      }
    >
      {rules.isError ? (
        <Failed error={rules.error} retry={() => void rules.refetch()} />
      ) : rules.isPending ? (
        <Loading what="the rules of all your courses" />
      ) : shown.length === 0 ? (
        <Empty title={all.length === 0 ? 'No rules yet' : 'No matches'}>
          The rules of all your courses belong here. Archived courses and rules are left out.
        </Empty>
      ) : (
        <div
          className="overflow-x-auto rounded-[16px] border border-line bg-sheet"
          role="group"
          aria-label="Rules: may scroll sideways"
          tabIndex={0}
        >
          <table className="w-full min-w-[860px] text-left text-[14.5px]">
            <thead className="text-[13px] text-ink-2">
              <tr className="border-b border-line-strong">
                {['Course', 'Rule', 'State', 'Last check', 'Next check'].map((name) => (
                  <th key={name} scope="col" className="px-4 py-2 font-semibold">
                    {name}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {shown.slice(0, most).map((rule) => (
                <Row key={`${rule.course} ${rule.id}`} rule={rule} />
              ))}
            </tbody>
          </table>
        </div>
      )}
      {shown.length > most && (
        <p className="mt-3 text-center">
          <Button onClick={() => setMost(most + MOST)}>
            Show {Math.min(MOST, shown.length - most)} of {shown.length - most} more
          </Button>
        </p>
      )}
    </PlacePage>
  );
}

function Row({ rule }: { readonly rule: EveryRule }) {
  const { lastRound, timeZone: zone } = rule;
  const to = `/c/${rule.course}/rules/${encodeURIComponent(rule.id)}`;
  return (
    <tr className="border-b border-line last:border-b-0 hover:bg-fog">
      <td className="px-4 py-2 font-semibold whitespace-nowrap">{rule.code}</td>
      <th scope="row" className="max-w-[420px] px-4 py-2 font-normal">
        <Link to={to} className="font-bold hover:underline">
          {rule.name}
        </Link>
        <span className="block truncate text-[13.5px] text-ink-2" title={rule.sentence}>
          students who {rule.looksFor}
        </span>
      </th>
      <td className="px-4 py-2">
        {rule.status === 'on' ? 'on' : <Chip tone="quiet">{offWords(rule.status, rule.wasOn)}</Chip>}
        {rule.status === 'on' && rule.cannotRun !== null && (
          <span className="block text-[13px] text-tangerine-text">▲ Cannot run: {rule.cannotRun}</span>
        )}
      </td>
      <td className="px-4 py-2">
        {lastRound === null ? (
          <span className="text-ink-2">has not run yet</span>
        ) : (
          <>
            <When at={lastRound.at} zone={zone} words={dayWords} />
            <span className="block text-[13px] text-ink-2">{roundWords(lastRound, rule.tellsOthers)}</span>
          </>
        )}
      </td>
      <td className="px-4 py-2 whitespace-nowrap">
        {rule.nextRoundAt === null ? '–' : <When at={rule.nextRoundAt} zone={zone} />}
      </td>
    </tr>
  );
}
