/** Whom to write to in this week of the term, beside what rules do. */
import { useQuery } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { listWords, plural } from '@zest-bell/core/time';
import { conditionSentence } from '@zest-bell/core/conditions';
import type { Hint, HintKind } from '@zest-bell/core/lookout';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { askLookout } from '../../parts/table/desk.ts';
import { Button } from '../../ui/Button.tsx';
import { useChosen, writeWords } from '../../parts/editing/chosen.ts';
import { Card } from './Card.tsx';

function wordsOf(hint: Hint): string {
  const n = hint.students.length;
  const students = plural(n, 'student');
  switch (hint.kind) {
    case 'neverVisited':
      return `${students} ${n === 1 ? 'has' : 'have'} never visited the course.`;
    case 'repliesWait':
      return `${students} ${n === 1 ? 'waits' : 'wait'} for an answer from you.`;
    case 'didWell':
      return `${students} did well on ${hint.item} and got no message from you in four weeks.`;
    case 'middle':
      return `${students} in the middle of the class never got a message from you.`;
    case 'lastWeeks':
      return `${students} can still turn in two or more missing items before the end.`;
  }
}

/** What Lookout then shows: the condition alone, no matter who was written to. */
const LOOK_WORDS: Readonly<Record<HintKind, string>> = {
  neverVisited: 'See them in Students',
  repliesWait: 'See them in Students',
  didWell: 'See all who did well',
  middle: 'See the whole middle',
  lastWeeks: 'See them in Students',
};

export function Hints({ here }: { readonly here: CourseHere }) {
  const navigate = useNavigate();
  const hints = useQuery({
    ...atMoment(['hints', here.id], here.now),
    queryFn: () => ask(contract.desk.hints, { course: here.id }),
  });
  // Replies have a card of their own.
  const shown = (hints.data ?? []).filter((h) => h.kind !== 'repliesWait');
  if (shown.length === 0) return null;
  const write = (hint: Hint) => {
    const who = hint.when === null ? '' : conditionSentence(hint.when, here.course);
    useChosen.getState().choose({ course: here.id, students: hint.students, who, about: who, subject: '' });
    void navigate(`/c/${here.id}/write`);
  };
  const look = (hint: Hint) => {
    if (hint.when !== null) askLookout(here, hint.when);
    void navigate(`/c/${here.id}/students`);
  };
  return (
    <Card title="Worth a message this week">
      <ul>
        {shown.map((hint) => {
          const names = hint.students.slice(0, 3).map((s) => nameOf(here, s));
          const more = hint.students.length - names.length;
          return (
            <li key={hint.kind} className="border-b border-line py-2.5 last:border-b-0">
              <p className="font-semibold">{wordsOf(hint)}</p>
              <p className="text-[14px] text-ink-2">{listWords(more > 0 ? [...names, `${more} more`] : names)}</p>
              <p className="mt-1.5 flex flex-wrap gap-2">
                <Button needs="nudges.decide" onClick={() => write(hint)}>
                  {writeWords(hint.students.length)}
                </Button>
                {hint.when !== null && (
                  <Button look="quiet" onClick={() => look(hint)}>
                    {LOOK_WORDS[hint.kind]}
                  </Button>
                )}
              </p>
            </li>
          );
        })}
      </ul>
    </Card>
  );
}
