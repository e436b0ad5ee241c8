/** Why rules do not reach a student, in a sentence or two. */
import { grouped } from '@zest-bell/core/course';
import { WITHHELD_WORDS } from '@zest-bell/core/rounds';
import { RULE_WEIGHTS } from '@zest-bell/core/rules';
import { dayWords, listWords, plural } from '@zest-bell/core/time';
import type { FallingLine } from '@zest-bell/core/exchange';

/** The reason in two or three words. */
export const REASON_WORDS: Readonly<Record<FallingLine['reason'], string>> = {
  noAddress: 'no email address',
  bounced: 'mail came back',
  paused: 'paused nudges',
  budget: 'limit reached',
  limit: 'limit reached',
  oldSpell: 'matched before',
  roundsMissed: 'check missed',
};

/** The lines of one student, one sentence or two for each reason; the longest unreached first. */
export function fallingWords(lines: readonly FallingLine[], zone: string): readonly string[] {
  return [...grouped(lines, (l) => l.reason).values()].map((ofReason) => reasonWords(byWeight(ofReason), zone));
}

/** The heaviest rule first, and of rules of one weight the one that has not reached the student for longest. */
export const byWeight = (lines: readonly FallingLine[]): FallingLine[] =>
  [...lines].sort((a, b) => RULE_WEIGHTS.indexOf(b.weight) - RULE_WEIGHTS.indexOf(a.weight) || a.since - b.since);

/** The first line is told, the others are named. */
function reasonWords(lines: readonly FallingLine[], zone: string): string {
  const [first, ...others] = lines;
  const also = listWords(others.map((l) => `“${l.ruleName}”`));
  return also === '' ? lineWords(first!, zone) : `${lineWords(first!, zone)} The same goes for ${also}.`;
}

function lineWords(line: FallingLine, zone: string): string {
  const rule = `“${line.ruleName}”`;
  const rounds = plural(line.rounds, 'check');
  const on = (at: number) => dayWords(at, zone);
  switch (line.reason) {
    case 'noAddress':
      return `No email address: ${rule} could not nudge this student in ${rounds}.`;
    case 'bounced':
      return `Mail to this address came back: ${rule} could not reach this student in ${rounds}.`;
    case 'paused':
      return `Paused nudges: ${rule} has skipped this student in ${rounds}.`;
    case 'budget':
      return `Message budget used up by ${usedBy(line)}: ${rule} has held this student back in ${rounds}.`;
    case 'limit': {
      const limit = WITHHELD_WORDS[line.limit!];
      const last = line.lastNudge === null ? '' : ` on ${on(line.lastNudge)}`;
      return `Still matches ${rule}, which nudged this student last${last}: ${limit}.`;
    }
    case 'oldSpell':
      return `Matches ${rule} since ${on(line.spellStart)}, before the rule was turned on for students who match from then on.`;
    case 'roundsMissed':
      return `Matches ${rule}, which has not run since ${on(line.since)}.`;
  }
}

function usedBy({ usedBy: used }: FallingLine): string {
  if (used === null) return 'earlier messages';
  return used.ruleName === null ? 'a message by hand' : `“${used.ruleName}”`;
}

/** Whether a message can leave now if the instructor says so: limits can be passed, a pause or a missing address cannot. */
export const canBeWritten = ({ reason }: FallingLine): boolean => reason === 'budget' || reason === 'limit';
