/** Why each rule finds a student now or does not, condition by condition, and what would happen at a round. */
import { Link } from 'react-router';
import { instantWords } from '@zest-bell/core/time';
import { leafWords, groupOf, isLeaf, leafClause, type Condition, type LeafEvidence } from '@zest-bell/core/conditions';
import { WITHHELD_WORDS } from '@zest-bell/core/rounds';
import { offWords } from '../../lib/decisionWords.ts';
import type { StudentRule } from '@zest-bell/core/exchange';

import type { CourseHere } from '../../lib/here.ts';
import { Chip } from '../../ui/Chip.tsx';
import { Empty } from '../../parts/common/States.tsx';

export function RulesPart({ here, rules }: { readonly here: CourseHere; readonly rules: readonly StudentRule[] }) {
  if (rules.length === 0) return <Empty title="No rules yet">A rule that is on says here whether it matches.</Empty>;
  return (
    <ul className="grid gap-3">
      {rules.map((r) => (
        <RuleCard key={r.rule} here={here} rule={r} />
      ))}
    </ul>
  );
}

function RuleCard({ here, rule: r }: { readonly here: CourseHere; readonly rule: StudentRule }) {
  const { standing: s } = r;
  const zone = here.course.timeZone;
  // The evidence is in the order of the leaves: each takes the next one.
  const evidence = s.evidence[Symbol.iterator]();
  return (
    <li className="rounded-[16px] border border-line bg-sheet px-5 py-3.5">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h3 className="min-w-0 text-[16px] font-bold">
          <Link to={`/c/${here.id}/rules/${r.rule}`} className="underline-offset-4 hover:underline">
            {r.name}
          </Link>
        </h3>
        {r.status === 'paused' && <Chip tone="quiet">{offWords(r.status, r.wasOn)}</Chip>}
        {!s.inAudience ? (
          <Chip tone="quiet">not about this student</Chip>
        ) : s.verdict === true ? (
          <Chip tone="zest">matches</Chip>
        ) : (
          <Chip tone="quiet">{s.verdict === null ? 'not known' : 'does not match'}</Chip>
        )}
      </div>
      <p className="mt-0.5 text-[14.5px] text-ink-2">{whatNext(r, zone)}</p>
      <p className="mt-1.5 text-[13.5px] text-ink-3">Looks for students who</p>
      <div>
        <Node here={here} node={s.when} evidence={evidence} />
      </div>
    </li>
  );
}

function whatNext({ standing: s, status, wasOn, nextRoundAt }: StudentRule, zone: string): string {
  if (!s.inAudience || s.verdict !== true) return '';
  const since = `Matches since ${instantWords(s.since!, zone)}. `;
  if (status === 'paused') return `${since}The rule is ${offWords(status, wasOn)}.`;
  if (s.step === null) return `${since}Its first step is not due yet.`;
  const [reason] = s.refusals;
  if (reason !== undefined) return `${since}Held back: ${WITHHELD_WORDS[reason]}.`;
  return nextRoundAt === null
    ? `${since}No more checks will come.`
    : `${since}Would be nudged ${instantWords(nextRoundAt, zone)}.`;
}

const GROUPS = { all: 'match all of these:', any: 'match any of these:', none: 'match none of these:' } as const;

function Node(props: {
  readonly here: CourseHere;
  readonly node: Condition;
  readonly evidence: Iterator<LeafEvidence>;
}) {
  const { here, node, evidence } = props;
  if (isLeaf(node)) {
    const found = evidence.next().value as LeafEvidence | undefined;
    const { lead, marked } = leafClause(node, here.course);
    const verdict = found?.verdict ?? null;
    return (
      <p className="flex gap-2 text-[14.5px]">
        <span
          role="img"
          aria-label={verdict === true ? 'true' : verdict === false ? 'false' : 'not known'}
          className={`w-4 flex-none text-center font-bold ${verdict === true ? 'text-pine' : 'text-ink-3'}`}
        >
          {verdict === true ? '✓' : verdict === false ? '✕' : '?'}
        </span>
        <span className="min-w-0">
          {lead} <strong>{marked}</strong>
          {found && <span className="text-ink-2"> · {leafWords(found, here.course.timeZone)}</span>}
        </span>
      </p>
    );
  }
  const { kind, children } = groupOf(node);
  return (
    <div>
      <p className="text-[13.5px] text-ink-3">{GROUPS[kind]}</p>
      <div className="ml-2 border-l-2 border-line pl-3">
        {children.map((child, i) => (
          <Node key={i} here={here} node={child} evidence={evidence} />
        ))}
      </div>
    </div>
  );
}
