/** What to change next term, in sentences that are counted: the weightiest three, of different kinds where there are. */
import type { Condition } from '../conditions/condition.ts';
import { conditionSentence } from '../conditions/sentence.ts';
import type { Course } from '../course/course.ts';
import { WITHHELD_WORDS, type WithheldReason } from '../rounds/decide/withheld.ts';
import { FEWEST, type TextResult } from '../outcomes/textResults.ts';
import { differenceOf } from '../outcomes/proportion.ts';
import { oneDecimal, plural } from '../time/words.ts';
import type { TermReport } from './reportData.ts';

const MOST = 3;

interface ProposedChange {
  readonly kind: 'number' | 'missed' | 'limit' | 'silent' | 'needless' | 'text' | 'returns' | 'keep';
  /** In students whom it is about. */
  readonly weight: number;
  readonly words: string;
}

export function changesToMake(
  report: Omit<TermReport, 'changes'>,
  outcome: Condition,
  course: Course,
): readonly string[] {
  const who = `students who ${conditionSentence(outcome, course)}`;
  const all = [
    ...otherNumbers(report, who),
    ...missed(report, who),
    ...limits(report),
    ...texts(report),
    ...needless(report),
    ...fewReturns(report),
    ...silent(report),
    ...keep(report),
  ].toSorted((a, b) => b.weight - a.weight);
  const firsts = all.filter((c, i) => all.findIndex((o) => o.kind === c.kind) === i);
  const rest = all.filter((c) => !firsts.includes(c) && c.kind !== 'keep');
  return [...firsts, ...rest].slice(0, MOST).map((c) => c.words);
}

type Report = Omit<TermReport, 'changes'>;

const unitWords = (value: number, unit: string): string =>
  unit === 'days' ? plural(value, 'day') : unit === 'percent' ? `${oneDecimal(value)}%` : oneDecimal(value);

function otherNumbers({ rules, worried }: Report, who: string): ProposedChange[] {
  return rules.flatMap(({ name, hindsight }): ProposedChange[] => {
    if (!hindsight?.other) return [];
    const { counts, other } = hindsight;
    const gain = other.counts.found - counts.found;
    const more = other.counts.needless - counts.needless;
    const cost = more <= 0 ? 'no more who did fine' : `${more} more who did fine`;
    const [from, to] = [unitWords(other.value, other.unit), unitWords(other.other, other.unit)];
    return [
      {
        kind: 'number',
        weight: 2 * gain,
        words: `“${name}” found ${counts.found} of ${worried} ${who}. At ${to} instead of ${from} it would have found ${other.counts.found}, and ${cost}.`,
      },
    ];
  });
}

const missed = ({ missedByAll, worried }: Report, who: string): ProposedChange[] =>
  missedByAll === 0
    ? []
    : [
        {
          kind: 'missed',
          weight: 2 * missedByAll,
          words: `No rule found ${missedByAll} of ${worried} ${who}. Add a rule that looks for what they had in common.`,
        },
      ];

/** What helps against each reason; null where nothing should. */
const HELPS: Readonly<Record<WithheldReason, string | null>> = {
  perSpell: 'Raise how often it may nudge each time.',
  perTerm: 'Raise how often it may nudge in a term.',
  gap: 'Shorten the time between its nudges.',
  budget: 'Widen the message budget, or make the rule essential.',
  pending: 'Decide sooner on the nudges in the Tray, or let it send by itself.',
  noAddress: 'Add their email addresses in People.',
  replied: null,
  paused: null,
};

function limits({ rules }: Report): ProposedChange[] {
  return rules.flatMap(({ name, heldBack }): ProposedChange[] => {
    // A student’s own pause is theirs, and a reply is an answer.
    const [worst] = heldBack
      .filter((h) => h.neverNudged > 0 && HELPS[h.reason] !== null)
      .toSorted((a, b) => b.neverNudged - a.neverNudged);
    if (!worst) return [];
    return [
      {
        kind: 'limit',
        weight: worst.neverNudged,
        words: `“${name}” never reached ${plural(worst.neverNudged, 'student')} it found: ${WITHHELD_WORDS[worst.reason]}. ${HELPS[worst.reason]}`,
      },
    ];
  });
}

function texts({ texts: all }: Report): ProposedChange[] {
  return all.flatMap(({ wording, texts: own, better }): ProposedChange[] => {
    if (!better) return [];
    const share = (t: TextResult) => (better.what === 'returns' ? t.returns! : t.replies);
    const [good, bad] = [share(own[better.better]!), share(own[better.worse]!)];
    const did = better.what === 'returns' ? 'came back' : 'replied';
    return [
      {
        kind: 'text',
        weight: Math.round((good.count / good.of - bad.count / bad.of) * bad.of),
        words: `After text ${better.better + 1} of “${wording}”, ${good.count} of ${good.of} ${did}; after text ${better.worse + 1}, ${bad.count} of ${bad.of}. Keep text ${better.better + 1} alone.`,
      },
    ];
  });
}

/** Found mostly students who did well without it. */
function needless({ rules }: Report): ProposedChange[] {
  return rules.flatMap(({ name, hindsight }): ProposedChange[] => {
    if (!hindsight) return [];
    const { found, needless: without } = hindsight.counts;
    if (found + without < FEWEST || found * 3 >= found + without) return [];
    return [
      {
        kind: 'needless',
        weight: without / 4,
        words: `“${name}” found ${plural(found + without, 'student')}, and ${without} of them did not need it. Make its condition narrower, unless it is meant as praise or a reminder.`,
      },
    ];
  });
}

/** Fewer come back after a rule than after the others, by more than chance. */
function fewReturns({ rules }: Report): ProposedChange[] {
  const known = rules.flatMap((r) =>
    r.rule !== null && r.result.returns ? [{ ...r, returns: r.result.returns }] : [],
  );
  return known.flatMap(({ rule, name, returns }): ProposedChange[] => {
    const others = known.filter((o) => o.rule !== rule);
    const [count, of] = [others.reduce((n, o) => n + o.returns.count, 0), others.reduce((n, o) => n + o.returns.of, 0)];
    if (returns.of < FEWEST || of < FEWEST) return [];
    const all = { count, of, low: 0, high: 1 };
    if (differenceOf(all, returns).low <= 0) return [];
    return [
      {
        kind: 'returns',
        weight: Math.round((count / of) * returns.of) - returns.count,
        words: `After “${name}”, ${returns.count} of ${returns.of} came back within two weeks; after your other rules, ${count} of ${of}. Change its text, or when it runs.`,
      },
    ];
  });
}

const silent = ({ rules }: Report): ProposedChange[] =>
  rules.flatMap(({ rule, name, rounds, result, heldBack }): ProposedChange[] =>
    rule !== null && rounds > 0 && result.sent === 0 && heldBack.length === 0
      ? [
          {
            kind: 'silent',
            weight: 1,
            words: `“${name}” ran ${plural(rounds, 'time')} and found nobody to nudge. Change its condition, or put it away.`,
          },
        ]
      : [],
  );

/** Where there is little to change, what worked is worth saying. */
function keep({ rules }: Report): ProposedChange[] {
  const known = rules.flatMap((r) =>
    r.rule !== null && r.result.returns && r.result.returns.of >= FEWEST
      ? [{ name: r.name, returns: r.result.returns }]
      : [],
  );
  const best = known.toSorted((a, b) => b.returns.low - a.returns.low)[0];
  return best
    ? [
        {
          kind: 'keep',
          weight: 0,
          words: `Keep “${best.name}”: ${best.returns.count} of ${best.returns.of} came back within two weeks.`,
        },
      ]
    : [];
}
