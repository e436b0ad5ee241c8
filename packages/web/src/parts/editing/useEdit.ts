/** Changes of the course's own data: saved, said with the rules that look at them, and taken back from the same line. */
import { useState } from 'react';
import { toast } from 'sonner';
import type { Problem } from '@zest-bell/core/problem';
import { listWords, plural } from '@zest-bell/core/time';
import type { ChangedAnswer, CourseEdit } from '@zest-bell/core/imports';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';

/** What a change touched, as a sentence; empty when no rule looks at it. */
function touchedWords({ rules, broken }: Pick<ChangedAnswer, 'rules' | 'broken'>): string {
  const looks =
    rules.length === 0 ? '' : `${plural(rules.length, 'rule')} ${rules.length === 1 ? 'looks' : 'look'} at this.`;
  const gone =
    broken.length === 0
      ? ''
      : `${listWords(broken.map((name) => `“${name}”`))} ${broken.length === 1 ? 'names' : 'name'} something that is gone. Open ${broken.length === 1 ? 'it' : 'them'} and choose something else.`;
  return [looks, gone].filter(Boolean).join(' ');
}

/** Says what was changed, with the way back. */
export function sayChanged(here: CourseHere, answer: ChangedAnswer): void {
  const { change } = answer;
  if (change === null) return void toast('Nothing changed.');
  toast(`${answer.summary}.`, {
    description: touchedWords(answer) || undefined,
    duration: 10_000,
    action: { label: 'Undo', onClick: () => void undoChange(here, change) },
  });
}

async function undoChange(here: CourseHere, change: number): Promise<void> {
  const done = await attempt(() => ask(contract.intake.undo, { course: here.id, change }));
  if (!done) return;
  await refreshAll();
  toast(`${done.title}.`);
}

export interface EditState {
  readonly busy: boolean;
  readonly problems: readonly Problem[];
  /** Whether the last save met what somebody else changed in the meantime: the next one puts one’s own in its place. */
  readonly collided: boolean;
  /** The problem at a path that ends with this field. */
  problemOf(field: string): string | undefined;
  /** True when it was saved. */
  save(edit: CourseEdit): Promise<boolean>;
  clear(): void;
}

export function useEdit(here: CourseHere): EditState {
  const [busy, setBusy] = useState(false);
  const [problems, setProblems] = useState<readonly Problem[]>([]);
  const [collided, setCollided] = useState(false);
  return {
    busy,
    collided,
    problems,
    problemOf: (field) => problems.find((p) => p.path === field || p.path.endsWith(`.${field}`))?.message,
    clear: () => setProblems([]),
    async save(edit) {
      setBusy(true);
      try {
        const answer = await ask(contract.intake.edit, { course: here.id }, { body: edit });
        await refreshAll();
        sayChanged(here, answer);
        setProblems([]);
        setCollided(false);
        return true;
      } catch (error) {
        const named = error instanceof ApiProblem ? error.problems : [];
        setProblems(named);
        if (error instanceof ApiProblem && error.code === 'changedMeanwhile') {
          // What is there by now is what the next save is compared with.
          await refreshAll();
          setCollided(true);
          toast.error('Somebody else changed this at the same time. Nothing was saved.');
          return false;
        }
        toast.error(named.length > 0 ? 'Some fields need a correction. Nothing was saved.' : errorWords(error));
        return false;
      } finally {
        setBusy(false);
      }
    },
  };
}
