/** What came of the texts of a wording: who came back, who answered, and whether one text did better than another. */
import { DAY, type Instant } from '../time/instant.ts';
import { differenceOf, wilson, type Proportion } from './proportion.ts';
import { quantile } from './quantile.ts';

/** One nudge that was sent, and what came of it. */
export interface SentText {
  /** Which of the wording's texts. */
  readonly variant: number;
  readonly sentAt: Instant;
  /** False for a rule that no act of a student can turn (engine R13). */
  readonly canReturn: boolean;
  readonly returned: boolean;
  readonly replied: boolean;
}

export interface TextResult {
  readonly sent: number;
  /** Sent less than two weeks ago: what comes of them is not known yet, and they are in neither share. */
  readonly open: number;
  /** Those of them who are back already. */
  readonly openBack: number;
  /** Those of them who have replied already. */
  readonly openReplied: number;
  /** Null when no rule that sent it can have returns. */
  readonly returns: Proportion | null;
  readonly replies: Proportion;
}

/** Two texts that differ by more than chance would often produce. */
export interface BetterText {
  readonly what: 'returns' | 'replies';
  readonly better: number;
  readonly worse: number;
}

export interface TextResults {
  readonly texts: readonly TextResult[];
  readonly all: TextResult;
  /** Null when no text is told from another: too few, or too alike. */
  readonly better: BetterText | null;
}

/** A return counts within two weeks (engine R13); before they are over, who has not come back still may. */
export const KNOWN_AFTER = 14 * DAY;
/** Fewer than these say nothing of a text, whatever their interval: common practice, no source. */
export const FEWEST = 10;

export function textResults(sent: readonly SentText[], count: number, now: Instant): TextResults {
  const texts = Array.from({ length: count }, (_, i) =>
    resultOf(
      sent.filter((s) => s.variant === i),
      now,
    ),
  );
  return { texts, all: resultOf(sent, now), better: better(texts, 'returns') ?? better(texts, 'replies') };
}

function resultOf(sent: readonly SentText[], now: Instant): TextResult {
  const isKnown = (s: SentText) => s.sentAt + KNOWN_AFTER <= now;
  const known = sent.filter(isKnown);
  const open = sent.filter((s) => !isKnown(s));
  const turnable = known.filter((s) => s.canReturn);
  return {
    sent: sent.length,
    open: open.length,
    openBack: open.filter((s) => s.returned).length,
    openReplied: open.filter((s) => s.replied).length,
    returns: turnable.length === 0 ? null : wilson(turnable.filter((s) => s.returned).length, turnable.length),
    replies: wilson(known.filter((s) => s.replied).length, known.length),
  };
}

/** Each pair is asked at a level of its share of 5%, so that many texts do not find a winner by chance (Bonferroni). */
function better(texts: readonly TextResult[], what: 'returns' | 'replies'): BetterText | null {
  const enough = texts.flatMap((t, i) => {
    const share = t[what];
    return share && share.of >= FEWEST ? [{ i, share }] : [];
  });
  const pairs = (enough.length * (enough.length - 1)) / 2;
  let found: (BetterText & { least: number }) | null = null;
  for (const a of enough) {
    for (const b of enough) {
      const least = a.i === b.i ? 0 : differenceOf(a.share, b.share, quantile(1 - 0.05 / pairs / 2)).low;
      if (least > (found?.least ?? 0)) found = { what, better: a.i, worse: b.i, least };
    }
  }
  return found && { what: found.what, better: found.better, worse: found.worse };
}
