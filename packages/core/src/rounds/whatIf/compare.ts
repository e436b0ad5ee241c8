/** Two rounds of the same moment side by side: what another version of a rule, or other limits, would change. */
import { assertNever } from '../../problem/problem.ts';
import type { Decision } from '../decide/decision.ts';

export interface RoundChange<D extends Decision = Decision> {
  readonly student: string;
  readonly kind: 'hears' | 'hearsNoMore' | 'hearsOtherwise' | 'withheldOtherwise';
  readonly before: D | null;
  readonly after: D | null;
}

const hears = (d: Decision | null): boolean => d?.outcome === 'sent' || d?.outcome === 'held';

/** Only what differs, those who would newly hear first. One decision a student on each side. */
export function compareRounds<D extends Decision>(before: readonly D[], after: readonly D[]): RoundChange<D>[] {
  const old = new Map(before.map((d) => [d.student, d]));
  const now = new Map(after.map((d) => [d.student, d]));
  const changes = [...new Set([...old.keys(), ...now.keys()])].flatMap((student): RoundChange<D>[] => {
    const [b, a] = [old.get(student) ?? null, now.get(student) ?? null];
    const change = { student, before: b, after: a };
    if (hears(a) && !hears(b)) return [{ ...change, kind: 'hears' }];
    if (hears(b) && !hears(a)) return [{ ...change, kind: 'hearsNoMore' }];
    if (hears(a) && hears(b)) return sameNudge(b!, a!) ? [] : [{ ...change, kind: 'hearsOtherwise' }];
    return b?.reason === a?.reason ? [] : [{ ...change, kind: 'withheldOtherwise' }];
  });
  return changes.sort((a, b) => orderOf(a.kind) - orderOf(b.kind));
}

function sameNudge(a: Decision, b: Decision): boolean {
  const addresses = (d: Decision) => d.to.map((r) => r.address).join();
  return a.outcome === b.outcome && a.step === b.step && a.sendAt === b.sendAt && addresses(a) === addresses(b);
}

function orderOf(kind: RoundChange['kind']): number {
  switch (kind) {
    case 'hears':
      return 0;
    case 'hearsNoMore':
      return 1;
    case 'hearsOtherwise':
      return 2;
    case 'withheldOtherwise':
      return 3;
    default:
      return assertNever(kind);
  }
}
